// Ticking many rows at once: all that are shown, a run of them with Shift, and how many are ticked.
(() => {
  const boxes = (name) => [...document.querySelectorAll(`#stage tbody input[type=checkbox][name="${CSS.escape(name)}"]`)];
  let last = null;

  const count = () => {
    for (const box of document.querySelectorAll("[data-ticks]")) {
      const ticked = boxes(box.dataset.ticks).filter((entry) => entry.checked).length;
      box.querySelector("[data-ticked]").textContent = ticked ? `${ticked} ticked` : "The ticked ones";
      if (ticked) box.open = true;
    }
  };

  document.addEventListener("click", (event) => {
    const box = event.target;
    if (!box.matches || !box.matches("#stage tbody input[type=checkbox][form]")) return;
    const all = boxes(box.name);
    if (event.shiftKey && last && all.includes(last)) {
      const [from, to] = [all.indexOf(last), all.indexOf(box)].sort((a, b) => a - b);
      for (const between of all.slice(from, to + 1)) between.checked = box.checked;
    }
    last = box;
  });

  // Enter in a field presses the button beside it, not the first one of the form
  document.addEventListener("keydown", (event) => {
    const act = event.key === "Enter" && event.target.matches("input:not([type=checkbox])") && event.target.closest(".act");
    if (!act) return;
    event.preventDefault();
    act.querySelector("button").click();
  });

  document.addEventListener("change", (event) => {
    const all = event.target.dataset && event.target.dataset.tickAll;
    if (all) for (const box of boxes(all)) box.checked = event.target.checked;
    count();
  });
})();
