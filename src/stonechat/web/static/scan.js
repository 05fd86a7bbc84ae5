// Reads the codes that a pack shows, by this machine's camera: pictures go to the program on this machine, no further.
(() => {
  const EACH_MS = 350;
  let stream = null;

  const stop = () => {
    if (stream) stream.getTracks().forEach((track) => track.stop());
    stream = null;
  };
  const tell = (panel, words) => {
    const told = panel.querySelector("[data-told]");
    if (told.textContent !== words) told.textContent = words;
  };

  const frame = (video) => {
    const canvas = document.createElement("canvas");
    canvas.width = video.videoWidth;
    canvas.height = video.videoHeight;
    canvas.getContext("2d").drawImage(video, 0, 0);
    return new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.9));
  };

  const look = async (panel) => {
    const video = panel.querySelector("video");
    const form = panel.closest("form");
    const seen = form.elements.seen;
    while (stream && panel.isConnected) {
      await new Promise((done) => setTimeout(done, EACH_MS));
      if (!video.videoWidth) continue;
      const body = new FormData();
      body.append("picture", await frame(video), "frame.jpg");
      body.append("seen", seen.value);
      body.append("revision", form.elements.revision.value);
      try {
        const answer = await fetch(panel.dataset.look, { method: "POST", body, headers: { Accept: "application/json" } });
        if (!answer.ok) continue;
        const told = await answer.json();
        seen.value = told.seen.join("\n");
        tell(panel, told.count ? told.words : "Hold the code before the camera.");
        if (told.count && !told.missing.length) {
          stop();
          form.querySelector("[type=file]").value = "";
          form.requestSubmit();
        }
      } catch {
        tell(panel, "The program does not answer. What was read so far is kept here.");
      }
    }
    stop();
  };

  document.addEventListener("click", async (event) => {
    const button = event.target.closest("[data-camera]");
    if (!button) return;
    const panel = button.closest("[data-look]");
    if (stream) {
      stop();
      panel.querySelector("video").hidden = true;
      return tell(panel, "");
    }
    try {
      stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment", width: 1280 } });
    } catch {
      return tell(panel, "There is no camera here, or it may not be used. Take a picture of each code, or bring the file.");
    }
    const video = panel.querySelector("video");
    video.srcObject = stream;
    video.hidden = false;
    await video.play();
    tell(panel, "Hold the code before the camera.");
    look(panel);
  });
})();
