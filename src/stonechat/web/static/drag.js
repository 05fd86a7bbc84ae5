// Moving things in the Load room: by dragging, or by choosing them and typing m and a carrier's letter.
// Several are picked by x or with Ctrl, and go together; what a carrier of the drawing holds goes by dragging that.
(() => {
  const stage = () => document.querySelector("[data-load]");
  let held = null; // {ids, name, place, options}
  const picked = new Set(); // ids of things that go together
  let ghost = null;
  let pressed = null;
  let typed = "";

  const cost = (minutes) => {
    const seconds = Math.round(Math.abs(minutes) * 60);
    const sign = seconds === 0 ? "±" : minutes > 0 ? "+" : "−";
    return `${sign}${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
  };

  const rowOf = (id) => stage().querySelector(`.item[data-item="${CSS.escape(id)}"]`);

  // what goes with a row: all that is picked, where the row is one of them
  const together = (row) => (picked.has(row.dataset.item) ? [...picked].map(rowOf).filter(Boolean) : [row]);

  const hold = async (rows) => {
    letGo();
    if (!rows.length) return;
    const places = new Set(rows.map((row) => row.dataset.place || ""));
    const name = rows.length === 1 ? rows[0].dataset.name : `${rows.length} things`;
    held = { ids: rows.map((row) => row.dataset.item), name, place: places.size === 1 ? [...places][0] : null, options: new Map() };
    const mine = held;
    for (const row of rows) row.classList.add("held");
    say(`${held.name}: choose ${rows.length === 1 ? "its" : "their"} place.`);
    const query = held.ids.map((id) => `item=${encodeURIComponent(id)}`).join("&");
    const answer = await fetch(`${stage().dataset.options}?${query}&leg=${legNow()}`, { headers: { Accept: "application/json" } });
    const options = answer.ok ? await answer.json() : [];
    if (held !== mine) return;
    for (const option of options) held.options.set(option.carrier, option);
    mark();
  };

  const pick = (row) => {
    letGo();
    const id = row.dataset.item;
    if (!picked.delete(id)) picked.add(id);
    row.classList.toggle("picked", picked.has(id));
    if (picked.size) say(`${picked.size} picked: drag one, or press m and a carrier's letter${picked.size === 2 ? "; s swaps them" : ""}; Esc lets go.`);
    else say("");
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
    picked.clear();
    letGo();
  };

  const letGo = () => {
    const room = stage();
    held = null;
    typed = "";
    if (ghost) ghost.remove();
    ghost = null;
    if (!room) return;
    for (const element of room.querySelectorAll(".held, .can, .risky, .cannot, .aim")) element.classList.remove("held", "can", "risky", "cannot", "aim");
    for (const row of room.querySelectorAll(".picked")) row.classList.toggle("picked", picked.has(row.dataset.item));
    for (const tag of room.querySelectorAll("[data-cost]")) tag.textContent = "";
    for (const second of room.querySelectorAll("[data-label] .second[data-usual]")) second.textContent = second.dataset.usual;
    say("");
  };

  const say = (words) => page.say("holding", words);

  const refusal = (id) => {
    const option = held.options.get(id);
    return option && !option.possible && option.reason;
  };

  const put = (id) => {
    if (!held || id === held.place) return release();
    const room = stage();
    if (refusal(id)) {
      say(`${held.name} ${held.ids.length === 1 ? "does" : "do"} not go in there: ${refusal(id)}.`);
      return undefined;
    }
    const hold = document.getElementById("moves-hold");
    const values = { item: held.ids, place: id, room: "load", since: hold ? hold.value : "" };
    const option = held.options.get(id);
    const told = option ? `${held.name}: ${cost(option.change_min)} min of reaching and wind${stands(option)}${option.reason ? `; ${option.reason}` : ""}. Checks follow.` : "";
    const rows = held.ids.map(rowOf).filter((row) => row && row.tagName === "LI");
    release();
    // it is there at once, with its minutes; the answer brings the rest
    const list = room.querySelector(`section[data-carrier="${CSS.escape(id)}"] ul`);
    if (list) list.prepend(...rows);
    say(told);
    send(room.dataset.move, values);
    return undefined;
  };

  const stands = ({ stance }) => (stance ? `; front wheel ${stance.front_pct.toFixed(1)} %, lean ${Math.abs(stance.lean_deg).toFixed(2)}°, sway ${stance.sway_kgm.toFixed(2)} kg m, bars ${stance.steering_kgm2.toFixed(2)} kg m²` : "");

  const send = (address, values) => {
    const all = { ...values, revision: stage().dataset.revision, leg: legNow() };
    htmx.ajax("POST", address, { target: "#stage", swap: "outerHTML show:none", values: all });
  };

  const legNow = () => {
    const current = document.querySelector("#tape [aria-current]");
    return current ? current.dataset.leg : "0";
  };

  // all that a carrier holds and that is not pinned there
  const heldIn = (carrier) => [...stage().querySelectorAll(`section[data-carrier="${CSS.escape(carrier)}"] .item`)].filter((row) => !row.querySelector(".pinned"));

  // dragging
  const under = (event) => {
    const element = document.elementFromPoint(event.clientX, event.clientY);
    return element && element.closest("[data-load] [data-carrier]");
  };
  document.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || event.target.closest("button, a, input, select, summary")) return;
    const row = event.target.closest("[data-load] .item");
    const shape = event.target.closest("[data-load] svg [data-carrier]");
    if (!row && !(shape && !held && !picked.size)) return;
    pressed = { row, shape, x: event.clientX, y: event.clientY, many: event.ctrlKey || event.metaKey || event.shiftKey };
  });
  document.addEventListener("pointermove", (event) => {
    if (pressed && !ghost && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 6) {
      const rows = pressed.row ? together(pressed.row) : heldIn(pressed.shape.dataset.carrier);
      if (!rows.length) {
        pressed = null;
        return;
      }
      hold(rows);
      ghost = document.createElement("div");
      ghost.className = "drag-ghost";
      ghost.textContent = held.name;
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
    const { row, many } = pressed || {};
    pressed = null;
    if (dragged) {
      const aim = under(event);
      if (ghost) ghost.remove();
      ghost = null;
      if (aim) put(aim.dataset.carrier);
      else release();
      return;
    }
    if (row && many) {
      row.focus();
      pick(row);
    } else if (row) {
      row.focus();
      hold(together(row));
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
    if (event.key === "Escape" && (held || picked.size)) {
      release();
    } else if (event.key === "x" && row && !typed) {
      event.preventDefault();
      pick(row);
    } else if (event.key === "s" && picked.size === 2 && !typed) {
      event.preventDefault();
      const items = [...picked];
      release();
      send(room.dataset.swap, { item: items });
    } else if (typed && held) {
      event.preventDefault();
      choose(event.key.toLowerCase());
    } else if ((event.key === "Enter" || event.key === " ") && row) {
      event.preventDefault();
      hold(together(row));
    } else if (event.key === "m" && (row || held)) {
      event.preventDefault();
      const ready = held && (!row || held.ids.includes(row.dataset.item)) ? Promise.resolve() : hold(together(row));
      typed = "m";
      ready.then(() => {
        if (held && typed) say(`Move ${held.name}: type the carrier's letter, hh for home, Esc to leave it.`);
      });
    } else if (event.key === "p" && (row || held)) {
      event.preventDefault();
      send(room.dataset.pin, { item: row ? row.dataset.item : held.ids[0] });
    } else if (event.key === "w" && (row || held) && !typed) {
      event.preventDefault();
      send(room.dataset.wear, { item: row ? row.dataset.item : held.ids[0] });
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
      const item = held.ids[0];
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
    picked.clear();
    if (ghost) ghost.remove();
    ghost = null;
  });

  // the order inside a bag, dragged within its list
  let slot = null;
  document.addEventListener("dragstart", (event) => {
    slot = event.target.closest && event.target.closest("[data-order] > li");
    if (slot) event.dataTransfer.effectAllowed = "move";
  });
  document.addEventListener("dragover", (event) => {
    const over = slot && event.target.closest("[data-order] > li");
    if (!over || over.parentNode !== slot.parentNode) return;
    event.preventDefault();
    const box = over.getBoundingClientRect();
    if (over !== slot) over.parentNode.insertBefore(slot, event.clientY < box.top + box.height / 2 ? over : over.nextSibling);
  });
  document.addEventListener("dragend", () => {
    if (!slot) return;
    const bag = slot.closest(".bag");
    const items = [...bag.querySelectorAll("[data-slot]")].map((row) => row.dataset.slot);
    const form = slot.querySelector("form");
    const values = { item: items, revision: form.elements.revision.value, leg: form.elements.leg.value };
    const address = slot.parentNode.dataset.order;
    slot = null;
    htmx.ajax("POST", address, { target: "#stage", swap: "outerHTML show:none", values });
  });
})();
