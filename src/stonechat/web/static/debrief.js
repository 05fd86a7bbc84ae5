// The debrief by keys: a letter says what became of the thing in hand and goes on to the next; ten minutes for ninety.
(() => {
  const buttonOf = (key) => document.querySelector(`[data-say="${CSS.escape(key)}"]`); // what a letter says stands on its button
  const table = () => document.querySelector("[data-debrief]");
  const tell = (words) => {
    const told = document.querySelector("[data-debrief-told]");
    if (told) told.textContent = words;
  };
  // what was said in one breath is one step of the plan, so that a debrief can be undone and does not fill its history;
  // until the answer is there it is kept for this tab, so that a page that is loaded anew in between says it again
  const IDLE_MS = 600;
  const KEPT = "debrief";
  let said = [],
    sent = [],
    timer = 0,
    last = Promise.resolve();
  const keep = (left) => (left.said.length ? sessionStorage.setItem(KEPT, JSON.stringify(left)) : sessionStorage.removeItem(KEPT));
  const here = () => ({
    address: table().dataset.debrief,
    revision: document.querySelector("#stage form input[name=revision]").value,
    page: page.name,
    said: [...sent, ...said],
  });
  const post = ({ address, revision, page, said }, keepalive = false) => {
    const body = new URLSearchParams({ revision, page, leg: "0" });
    said.forEach((entry) => body.append("said", entry));
    return fetch(address, { method: "POST", body, keepalive, headers: { "HX-Request": "true" } });
  };
  const flush = () => {
    clearTimeout(timer);
    if (!said.length || !table()) return last;
    last = last.then(async () => {
      // with what could not be sent before
      sent = [...sent, ...said];
      said = [];
      try {
        const answer = await post({ ...here(), said: sent });
        if (answer.status >= 500) throw new Error();
        sent = [];
        keep(here());
        if (!answer.ok) tell("What was said last was refused, as the plan was changed elsewhere. Load the page again.");
        else if (!said.length) tell("Kept.");
      } catch {
        tell("What was said last is not kept yet. Load the page again: it is said once more then.");
      }
    });
    return last;
  };
  const send = (row, field, value) => {
    said.push(`${row.dataset.thing}|${field}|${value}`);
    keep(here());
    tell("…");
    clearTimeout(timer);
    timer = setTimeout(flush, IDLE_MS);
  };
  window.addEventListener("pagehide", () => table() && said.length && post(here(), true));
  // nothing else of this page is sent, and no other opened, before what was said of things
  document.addEventListener("htmx:confirm", (event) => {
    if (!said.length) return;
    event.preventDefault();
    flush().then(() => event.detail.issueRequest(true));
  });
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href]:not([hx-get]):not([download])");
    if (!said.length || !link || event.defaultPrevented || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    flush().then(() => window.location.assign(link.href));
  });
  const sayAgain = async () => {
    const left = JSON.parse(sessionStorage.getItem(KEPT) || "null");
    if (!left || !table() || left.address !== table().dataset.debrief) return;
    try {
      const answer = await post(left);
      if (answer.status >= 500) return;
      sessionStorage.removeItem(KEPT);
      if (answer.ok) window.location.reload();
      else tell("What was said last was not kept, as the plan was changed elsewhere. Say it once more.");
    } catch {
      tell("What was said last is not kept yet. Load the page again: it is said once more then.");
    }
  };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", sayAgain);
  else sayAgain();
  const go = (row) => {
    if (!row) return;
    table()
      .querySelectorAll("tr[tabindex]")
      .forEach((one) => one.setAttribute("tabindex", "-1"));
    row.setAttribute("tabindex", "0");
    row.focus();
    row.scrollIntoView({ block: "nearest" });
  };
  const inHand = () => table().querySelector("tr[tabindex='0']");
  const sayOf = (row, key) => {
    if (row.hasAttribute("data-counted")) return tell("Its record holds this race already.");
    const { field, value, words } = buttonOf(key).dataset;
    row.querySelector(field === "use" ? "[data-use]" : "[data-fate]").textContent = words;
    const isSpoken = (one) => ["use", "fate"].some((field) => one.querySelector(`[data-${field}]`).textContent.trim());
    const spoken = [...table().querySelectorAll("[data-thing]")].filter(isSpoken);
    document.querySelector("[data-debrief-said]").textContent = spoken.length;
    send(row, field, value);
    if (field === "use") go(row.nextElementSibling);
  };
  document.addEventListener("click", (event) => {
    if (!table()) return;
    const button = event.target.closest("[data-say]");
    if (button) return sayOf(inHand(), button.dataset.say);
    const row = event.target.closest("[data-thing]");
    if (row) go(row);
  });
  document.addEventListener(
    "keydown",
    (event) => {
      if (!table() || event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, select, textarea, dialog")) return;
      const row = event.target.closest("[data-thing]");
      if (!row) return;
      if (event.key === "ArrowDown" || event.key === "ArrowUp") {
        event.preventDefault();
        return go(event.key === "ArrowDown" ? row.nextElementSibling : row.previousElementSibling);
      }
      if (!buttonOf(event.key)) return;
      // here a letter is about the thing in hand, never about the page
      event.preventDefault();
      event.stopImmediatePropagation();
      sayOf(row, event.key);
    },
    true,
  );
})();
