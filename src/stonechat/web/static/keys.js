// Keys for everything, sheets on small screens, and finding by name.
(() => {
  const typing = (target) => target.closest("input:not([type=checkbox]), select, textarea, dialog");
  // letters alone can be switched off; what is off never reaches any other listener
  const LETTERS = "stonechat-letters";
  const lettersOff = () => localStorage.getItem(LETTERS) === "off";
  window.addEventListener(
    "keydown",
    (event) => {
      const plain = event.key.length === 1 && event.key !== " " && !event.ctrlKey && !event.metaKey && !event.altKey;
      if (lettersOff() && plain && !typing(event.target)) event.stopImmediatePropagation();
    },
    true,
  );
  const letters = () => document.querySelector("[data-letters]");
  document.addEventListener("DOMContentLoaded", () => (letters().checked = !lettersOff()));
  document.addEventListener("change", (event) => {
    if (event.target === letters()) localStorage.setItem(LETTERS, event.target.checked ? "on" : "off");
  });

  // a dialog that shuts keeps the focus until the next frame is drawn: a key pressed before that would be lost in it
  document.addEventListener(
    "close",
    (event) => {
      if (event.target.contains(document.activeElement)) document.activeElement.blur();
    },
    true,
  );

  let after = "";
  let timer = 0;

  const wait = (key) => {
    after = key;
    clearTimeout(timer);
    timer = setTimeout(() => (after = ""), 1500);
  };

  const step = (by) => {
    const legs = [...document.querySelectorAll("#tape [data-leg]")];
    const now = legs.findIndex((leg) => leg.getAttribute("aria-current"));
    const next = legs[now + by];
    if (next) next.click();
  };

  const history = (label) => {
    const button = document.querySelector(`#ledger .steps button[title^="${label}:"]`);
    if (button) button.click();
  };

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    if (event.key === "Escape") closeSheets();
    if (after === "g") {
      const room = document.querySelector(`#bar [data-room="${CSS.escape(event.key)}"]`);
      after = "";
      if (room) {
        event.preventDefault();
        room.click();
      }
      return;
    }
    if (event.defaultPrevented) return;
    const actions = {
      g: () => wait("g"),
      "[": () => step(-1),
      "]": () => step(1),
      u: () => history("Undo"),
      U: () => history("Redo"),
      "?": () => document.getElementById("keys").showModal(),
      "/": openFind,
    };
    if (actions[event.key]) {
      event.preventDefault();
      actions[event.key]();
    }
  });

  const closeSheets = () => document.querySelectorAll("[data-sheet].open").forEach((sheet) => sheet.classList.remove("open"));

  document.addEventListener("click", (event) => {
    const opener = event.target.closest("[data-open-sheet]");
    if (opener) {
      const sheet = document.querySelector(`[data-sheet="${opener.dataset.openSheet}"]`);
      const opens = !sheet.classList.contains("open");
      closeSheets();
      sheet.classList.toggle("open", opens);
      if (opens) showCurrent();
      return;
    }
    if (!event.target.closest("[data-sheet]") || event.target.closest("#tape [data-leg]")) closeSheets();
    const reload = event.target.closest("[data-reload]");
    if (reload) {
      event.preventDefault();
      window.location.reload();
    }
  });

  const showCurrent = () => {
    const current = document.querySelector("#tape [data-current]");
    const tape = document.querySelector(".tape");
    if (!current || !tape) return;
    const top = current.offsetTop - tape.offsetTop;
    if (top < tape.scrollTop || top + current.offsetHeight > tape.scrollTop + tape.clientHeight) {
      tape.scrollTop = Math.max(0, top - tape.clientHeight / 3);
    }
  };
  document.addEventListener("DOMContentLoaded", showCurrent);
  document.addEventListener("htmx:afterSettle", showCurrent);

  // what was opened for editing, or what a check or the finder speaks of, comes into view
  const showOpened = () => {
    const opened = document.querySelector("#stage [data-opened]");
    if (opened) {
      opened.scrollIntoView({ block: "nearest" });
      const wrong = opened.querySelector("[aria-invalid]");
      const first = wrong || opened.querySelector(".field input, .field select");
      if (first) first.focus({ preventScroll: true });
      return;
    }
    const spoken = new URLSearchParams(window.location.search).has("open") && document.querySelector("#stage .current");
    if (spoken) spoken.scrollIntoView({ block: "center" });
  };
  document.addEventListener("DOMContentLoaded", showOpened);
  document.addEventListener("htmx:afterSettle", (event) => {
    const asked = event.detail.requestConfig;
    const wrong = document.querySelector("#stage [aria-invalid]");
    if (asked && asked.verb === "get" && !asked.path.includes("/do/")) showOpened();
    else if (wrong && asked && asked.verb === "post") wrong.focus();
  });

  // finding
  let entries = [];
  let chosen = 0;
  async function openFind() {
    const dialog = document.getElementById("find");
    const box = document.getElementById("find-words");
    box.value = "";
    dialog.showModal();
    const answer = await fetch(dialog.dataset.address, { headers: { Accept: "application/json" } });
    entries = answer.ok ? await answer.json() : [];
    list();
  }
  const matching = () => {
    const words = document.getElementById("find-words").value.toLowerCase().split(/\s+/).filter(Boolean);
    return entries.filter((entry) => words.every((word) => `${entry.name} ${entry.kind}`.toLowerCase().includes(word))).slice(0, 12);
  };
  function list() {
    const found = matching();
    chosen = Math.min(chosen, Math.max(0, found.length - 1));
    const place = document.getElementById("find-list");
    place.replaceChildren(
      ...found.map((entry, index) => {
        const row = document.createElement("li");
        row.setAttribute("role", "option");
        row.setAttribute("aria-selected", String(index === chosen));
        row.id = `found-${index}`;
        const name = document.createElement("span");
        name.textContent = entry.name;
        const kind = document.createElement("span");
        kind.className = "aside";
        kind.textContent = entry.kind;
        row.append(name, kind);
        row.addEventListener("click", () => (window.location.href = entry.address));
        return row;
      }),
    );
    document.getElementById("find-words").setAttribute("aria-activedescendant", found.length ? `found-${chosen}` : "");
  }
  document.addEventListener("input", (event) => {
    if (event.target.id === "find-words") {
      chosen = 0;
      list();
    }
  });
  document.addEventListener("keydown", (event) => {
    if (event.target.id !== "find-words") return;
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      chosen = Math.max(0, chosen + (event.key === "ArrowDown" ? 1 : -1));
      list();
    } else if (event.key === "Enter") {
      event.preventDefault();
      const found = matching()[chosen];
      if (found) window.location.href = found.address;
    }
  });
})();
