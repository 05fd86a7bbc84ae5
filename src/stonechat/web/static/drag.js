// Moving things in the Load room: by dragging, or by choosing one and typing m and a carrier's letter.
(() => {
  const stage = () => document.querySelector("[data-load]");
  let held = null; // {id, name, place, options}
  let ghost = null;
  let pressed = null;
  let typed = "";

  const cost = (minutes) => {
    const seconds = Math.round(Math.abs(minutes) * 60);
    const sign = seconds === 0 ? "±" : minutes > 0 ? "+" : "−";
    return `${sign}${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
  };

  const hold = async (row) => {
    release();
    held = { id: row.dataset.item, name: row.dataset.name, place: row.dataset.place || "", options: new Map() };
    const mine = held;
    row.classList.add("held");
    say(`${held.name}: choose its place.`);
    const answer = await fetch(`${stage().dataset.options}?item=${encodeURIComponent(held.id)}`, { headers: { Accept: "application/json" } });
    const options = answer.ok ? await answer.json() : [];
    if (held !== mine) return;
    for (const option of options) held.options.set(option.carrier, option);
    mark();
  };

  const words = (option) => {
    if (option.carrier === held.place) return "here now";
    if (!option.possible) return option.reason;
    return `${cost(option.change_min)} min${option.reason ? `, ${option.reason}` : ""}`;
  };

  const mark = () => {
    const room = stage();
    for (const place of room.querySelectorAll("[data-carrier]")) {
      const id = place.dataset.carrier;
      const option = held.options.get(id);
      const possible = id === "home" || (option && option.possible);
      place.classList.toggle("can", possible && !(option && option.reason) && id !== held.place);
      place.classList.toggle("risky", Boolean(possible && option && option.reason && id !== held.place));
      place.classList.toggle("cannot", !possible);
    }
    for (const tag of room.querySelectorAll("[data-cost]")) {
      const option = held.options.get(tag.dataset.cost);
      tag.textContent = option ? words(option) : "";
      tag.classList.toggle("wrong", Boolean(option && option.reason));
    }
    tags(room);
  };

  // labels on the drawing say what the held thing would cost there
  const tags = (room) => {
    for (const label of room.querySelectorAll("svg.rig [data-label]")) {
      const second = label.querySelector(".second");
      if (!second.dataset.usual) second.dataset.usual = second.textContent;
      const costs = label.dataset.label.split(" ").flatMap((id) => {
        const option = held.options.get(id);
        if (!option) return [];
        return [words(option)];
      });
      if (costs.length) second.textContent = [...new Set(costs)].join(" or ");
    }
  };

  const release = () => {
    const room = stage();
    held = null;
    typed = "";
    if (ghost) ghost.remove();
    ghost = null;
    if (!room) return;
    for (const element of room.querySelectorAll(".held, .can, .risky, .cannot, .aim")) element.classList.remove("held", "can", "risky", "cannot", "aim");
    for (const tag of room.querySelectorAll("[data-cost]")) tag.textContent = "";
    for (const second of room.querySelectorAll("[data-label] .second[data-usual]")) second.textContent = second.dataset.usual;
    say("");
  };

  const say = (text) => {
    const place = document.getElementById("holding");
    if (place) place.textContent = text;
  };

  const refusal = (id) => {
    const option = held.options.get(id);
    return option && !option.possible && option.reason;
  };

  const put = (id) => {
    if (!held || id === held.place) return release();
    const room = stage();
    if (refusal(id)) {
      say(`${held.name} does not go in there: ${refusal(id)}.`);
      return undefined;
    }
    const values = { item: held.id, place: id, revision: room.dataset.revision, leg: legNow(), room: "load" };
    release();
    htmx.ajax("POST", room.dataset.move, { target: "#stage", swap: "outerHTML show:none", values });
    return undefined;
  };

  const legNow = () => {
    const current = document.querySelector("#tape [aria-current]");
    return current ? current.dataset.leg : "0";
  };

  // dragging
  const under = (event) => {
    const element = document.elementFromPoint(event.clientX, event.clientY);
    return element && element.closest("[data-load] [data-carrier]");
  };
  document.addEventListener("pointerdown", (event) => {
    const row = event.target.closest("[data-load] .item");
    if (!row || event.button !== 0) return;
    pressed = { row, x: event.clientX, y: event.clientY, pointer: event.pointerId };
  });
  document.addEventListener("pointermove", (event) => {
    if (pressed && !ghost && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 6) {
      hold(pressed.row);
      ghost = document.createElement("div");
      ghost.className = "drag-ghost";
      ghost.textContent = pressed.row.dataset.name;
      document.body.append(ghost);
      event.preventDefault();
    }
    if (!ghost) return;
    ghost.style.left = `${event.clientX + 12}px`;
    ghost.style.top = `${event.clientY + 8}px`;
    const aim = under(event);
    for (const element of stage().querySelectorAll(".aim")) if (element !== aim) element.classList.remove("aim");
    if (aim) aim.classList.add("aim");
    // near the edges of the list it moves under the pointer; over the drawing it rests
    const list = document.getElementById("main");
    const below = stage().querySelector(".drawing").getBoundingClientRect().bottom;
    if (event.clientY > below && event.clientY < below + 30) list.scrollTop -= 14;
    if (event.clientY > window.innerHeight - 50) list.scrollTop += 14;
  });
  document.addEventListener("pointerup", (event) => {
    const dragged = ghost !== null;
    const row = pressed && pressed.row;
    pressed = null;
    if (dragged) {
      const aim = under(event);
      if (ghost) ghost.remove();
      ghost = null;
      if (aim) put(aim.dataset.carrier);
      else release();
      return;
    }
    if (row) {
      row.focus();
      hold(row);
    } else if (held) {
      const aim = event.target.closest("[data-load] [data-carrier]");
      if (aim) put(aim.dataset.carrier);
    }
  });
  document.addEventListener("pointercancel", () => {
    pressed = null;
    release();
  });
  document.addEventListener("selectstart", (event) => {
    if (pressed) event.preventDefault();
  });

  // keys
  document.addEventListener("keydown", (event) => {
    const room = stage();
    if (!room || event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, select, textarea, dialog")) return;
    const row = event.target.closest(".item");
    if (event.key === "Escape" && held) {
      release();
    } else if (typed && held) {
      event.preventDefault();
      choose(event.key.toLowerCase());
    } else if ((event.key === "Enter" || event.key === " ") && row) {
      event.preventDefault();
      hold(row);
    } else if (event.key === "m" && (row || held)) {
      event.preventDefault();
      const ready = held && (!row || held.id === row.dataset.item) ? Promise.resolve() : hold(row);
      typed = "m";
      ready.then(() => {
        if (held && typed) say(`Move ${held.name}: type the carrier's letter, hh for home, Esc to leave it.`);
      });
    } else if (event.key === "p" && (row || held)) {
      event.preventDefault();
      const item = row ? row.dataset.item : held.id;
      htmx.ajax("POST", room.dataset.pin, { target: "#stage", swap: "outerHTML show:none", values: { item, revision: room.dataset.revision, leg: legNow() } });
    } else if (row && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      const rows = [...room.querySelectorAll(".item")];
      const next = rows[rows.indexOf(row) + (event.key === "ArrowDown" ? 1 : -1)];
      if (next) {
        event.preventDefault();
        next.focus();
      }
    }
  });

  const choose = (key) => {
    const word = typed === "m" ? key : typed.slice(1) + key;
    const places = [...stage().querySelectorAll("section[data-carrier]")];
    const exact = places.find((place) => place.dataset.key === word);
    const longer = places.some((place) => place.dataset.key.startsWith(word) && place.dataset.key !== word);
    if (exact) {
      const item = held.id;
      typed = "";
      put(exact.dataset.carrier);
      if (!held) refocus(item);
    } else if (longer) {
      typed = `m${word}`;
    } else {
      typed = "";
      say(`No carrier has the letter ${word}.`);
    }
  };

  const refocus = (item) => {
    document.addEventListener(
      "htmx:afterSettle",
      () => {
        const row = document.querySelector(`[data-load] .item[data-item="${CSS.escape(item)}"]`);
        if (row) row.focus();
      },
      { once: true },
    );
  };

  document.addEventListener("htmx:beforeSwap", () => {
    // taking a focused thing out of the page would lay the whole page out first
    const focused = document.activeElement;
    if (focused && focused.closest("[data-load]") && !focused.id) focused.blur();
    held = null;
    pressed = null;
    if (ghost) ghost.remove();
    ghost = null;
  });
})();
