// The weigh-in by keys: reads the scale again and again, takes a stable mass by Enter, and goes on to the next thing.
(() => {
  let timer = 0;
  let last = { state: "settling" };
  let putFor = "";

  const room = () => document.querySelector("[data-weigh]");
  const post = (address, values) => {
    const body = new URLSearchParams({ ...values, quiet: "yes", revision: "0", leg: "0" });
    return fetch(address, { method: "POST", body, headers: { Accept: "application/json" } }).catch(() => {});
  };

  const count = () => {
    const field = document.getElementById("weigh-count");
    return field ? field.value : "1";
  };

  const putOn = () => {
    const here = room();
    if (!here || !here.dataset.item) return;
    putFor = `${here.dataset.item} ${count()}`;
    post(here.dataset.put, { item: here.dataset.item, count: count() });
  };

  const show = (given) => {
    const here = room();
    const other = here && given.holds !== undefined && given.holds !== here.dataset.item;
    const reading = other ? { state: "settling", mass_g: 0, words: "Put it on the scale." } : given;
    const figure = document.getElementById("scale-figure");
    const words = document.getElementById("scale-words");
    if (!figure || !words) return;
    last = reading;
    figure.textContent = reading.state === "overload" || reading.state === "silent" ? "– – –" : `${Math.round(reading.mass_g)} g`;
    if (words.textContent !== reading.words) words.textContent = reading.words;
    words.className = `scale-words ${reading.state}`;
  };

  const tick = async () => {
    const here = room();
    if (!here) {
      clearInterval(timer);
      timer = 0;
      putFor = "";
      return;
    }
    // the simulated hand: what is asked for is put on
    if (here.dataset.item && putFor !== `${here.dataset.item} ${count()}`) putOn();
    try {
      const answer = await fetch(here.dataset.read, { cache: "no-store" });
      if (answer.ok) show(await answer.json());
    } catch {
      show({ state: "silent", mass_g: 0, words: "The program does not answer. What was weighed so far is kept." });
    }
  };

  const watch = () => {
    if (room() && !timer) {
      timer = setInterval(tick, 300);
      tick();
    }
    const now = document.querySelector("[data-now]");
    if (now) now.scrollIntoView({ block: "nearest" });
    // the keys work at once: the first one pressed goes to the scale
    const focused = document.activeElement;
    const take = document.getElementById("weigh-take");
    if (take && (!focused || focused === document.body || focused.id === "stage" || focused.closest(".tabs"))) take.focus({ preventScroll: true });
  };
  document.addEventListener("DOMContentLoaded", watch);
  document.addEventListener("htmx:afterSettle", watch);

  document.addEventListener("keydown", (event) => {
    const here = room();
    if (!here || event.ctrlKey || event.metaKey || event.altKey) return;
    const field = event.target.closest("input, select, textarea, a, summary, dialog, button");
    const ours = event.target.id === "weigh-take" || (event.key === "Enter" && event.target.id === "weigh-typed");
    if (field && !ours) return;
    const skip = here.querySelector("form#take-form a");
    if (event.key === "Enter") {
      event.preventDefault();
      const typed = document.getElementById("weigh-typed");
      if (last.state === "stable" || (typed && typed.value.trim())) {
        last = { state: "settling" };
        document.getElementById("weigh-take").click();
      }
    } else if ((event.key === "n" || event.key === "ArrowDown") && skip) {
      event.preventDefault();
      skip.click();
    } else if (event.key === "t") {
      post(here.dataset.tare, {});
    } else if (event.key === "+" || event.key === "-") {
      const number = document.getElementById("weigh-count");
      if (number) number.value = String(Math.max(1, (Number(number.value) || 1) + (event.key === "+" ? 1 : -1)));
    }
  });

  // the countdown: arrows choose, space ticks (a button does that itself)
  document.addEventListener("keydown", (event) => {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const boxes = [...document.querySelectorAll("[data-task]")];
    if (!boxes.length || event.target.closest("input, select, textarea, dialog")) return;
    event.preventDefault();
    const at = boxes.indexOf(document.activeElement);
    const next = at < 0 ? boxes[0] : boxes[at + (event.key === "ArrowDown" ? 1 : -1)];
    if (next) next.focus();
  });
})();
