// Refuses a file that is too large before it is sent, and takes a file dropped on the page.
(() => {
  const say = (sentence) => page.message(sentence).scrollIntoView({ block: "nearest" });

  const tooLarge = (form) => {
    const input = form.querySelector("input[type=file]");
    const most = Number(form.dataset.mostMb);
    const file = input && input.files[0];
    if (!file || !most || file.size <= most * 1e6) return false;
    say(`${file.name} has ${(file.size / 1e6).toFixed(0)} MB; ${most} MB is the most. Export the course with fewer points, or split the table.`);
    return true;
  };

  document.addEventListener("htmx:confirm", (event) => {
    const form = event.target.closest && event.target.closest("form[data-most-mb]");
    if (form && tooLarge(form)) event.preventDefault();
  });

  const imports = () => document.querySelector("form.import[data-most-mb]");
  document.addEventListener("dragover", (event) => {
    if (imports() && event.dataTransfer && [...event.dataTransfer.types].includes("Files")) event.preventDefault();
  });
  document.addEventListener("drop", (event) => {
    const form = imports();
    if (!form || !event.dataTransfer || !event.dataTransfer.files.length) return;
    event.preventDefault();
    form.querySelector("input[type=file]").files = event.dataTransfer.files;
    form.requestSubmit();
  });
})();
