// Slides carriers along their possible places in the drawing of Rig: by dragging, and by the arrow keys.
(() => {
  const NS = "http://www.w3.org/2000/svg";
  let held = null;

  const stage = () => document.querySelector("#stage[data-rig]");
  const slotsOf = (id) => (JSON.parse(stage().dataset.slots)[id] || []).filter(Boolean);
  const say = (words) => page.say("sliding", words);

  const put = (id, slot, shift) => {
    const room = stage();
    const leg = new URLSearchParams(location.search).get("leg") || 0;
    htmx.ajax("POST", `${room.dataset.put}/${id}/put`, {
      target: "#stage",
      swap: "outerHTML show:none",
      values: { place: slot.place, side: slot.side, shift: String(shift), revision: room.dataset.revision, leg },
    });
    document.addEventListener(
      "htmx:afterSettle",
      () => {
        const again = document.querySelector(`[data-slide="${CSS.escape(id)}"]`);
        if (again) again.focus();
      },
      { once: true },
    );
  };

  const nearest = (slots, [x, y]) => {
    let best = null;
    for (const slot of slots) {
      const [[ax, ay], [bx, by]] = slot.ends;
      const length = (bx - ax) ** 2 + (by - ay) ** 2;
      const share = length ? Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length)) : 0;
      const distance = Math.hypot(x - ax - share * (bx - ax), y - ay - share * (by - ay));
      const shift = Math.round(slot.shifts_mm[0] + share * (slot.shifts_mm[1] - slot.shifts_mm[0]));
      const left = best && best.distance <= distance + (slot.here ? 0 : 4);
      if (!left) best = { slot, shift, distance, at: [ax + share * (bx - ax), ay + share * (by - ay)] };
    }
    return best;
  };

  const marked = (svg, slots) => {
    const group = document.createElementNS(NS, "g");
    group.setAttribute("class", "slots");
    for (const slot of slots) {
      const line = document.createElementNS(NS, "line");
      const [[x1, y1], [x2, y2]] = slot.ends;
      for (const [name, value] of Object.entries({ x1, y1, x2, y2 })) line.setAttribute(name, value);
      group.append(line);
    }
    const mark = document.createElementNS(NS, "circle");
    mark.setAttribute("r", 7);
    group.append(mark);
    svg.append(group);
    return { group, mark };
  };

  document.addEventListener("pointerdown", (event) => {
    const shape = stage() && event.button === 0 && event.target.closest("[data-slide]");
    if (!shape) return;
    const slots = slotsOf(shape.dataset.slide);
    if (!slots.length) return;
    const svg = shape.closest("svg");
    held = { id: shape.dataset.slide, name: shape.dataset.name, slots, svg, from: [event.clientX, event.clientY], picture: null, at: null };
  });

  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    if (!held.picture && Math.hypot(event.clientX - held.from[0], event.clientY - held.from[1]) < 5) return;
    if (!held.picture) held.picture = marked(held.svg, held.slots);
    held.at = nearest(held.slots, page.pointIn(held.svg, event));
    held.picture.mark.setAttribute("cx", held.at.at[0]);
    held.picture.mark.setAttribute("cy", held.at.at[1]);
    say(`${held.name}: ${held.at.slot.words}, ${held.at.shift} mm.`);
  });

  const letGo = () => {
    if (held && held.picture) held.picture.group.remove();
    held = null;
  };
  document.addEventListener("pointerup", () => {
    if (!held) return;
    const { id, at } = held;
    letGo();
    if (at && (!at.slot.here || Math.abs(at.shift - at.slot.now_mm) >= 1)) put(id, at.slot, at.shift);
  });
  document.addEventListener("pointercancel", letGo);
  document.addEventListener("selectstart", (event) => {
    if (held) event.preventDefault();
  });

  document.addEventListener("keydown", (event) => {
    const shape = stage() && event.target.closest && event.target.closest("[data-slide]");
    if (!shape || event.ctrlKey || event.metaKey || event.altKey) return;
    const id = shape.dataset.slide;
    if (event.key === "Escape") letGo();
    if (event.key === "Enter") {
      const link = [...document.querySelectorAll(".table th a")].find((a) => new URL(a.href).searchParams.get("open") === id);
      if (link) link.click();
    }
    if (event.key !== "ArrowLeft" && event.key !== "ArrowRight") return;
    event.preventDefault();
    const slot = slotsOf(id).find((entry) => entry.here);
    if (!slot || slot.shifts_mm[0] === slot.shifts_mm[1]) {
      say(`${shape.dataset.name} cannot be shifted.`);
      return;
    }
    const [[ax], [bx]] = slot.ends;
    const forward = bx >= ax ? 1 : -1;
    const step = (event.key === "ArrowRight" ? 1 : -1) * forward * (event.shiftKey ? 50 : 10);
    const shift = Math.min(slot.shifts_mm[1], Math.max(slot.shifts_mm[0], slot.now_mm + step));
    if (shift !== slot.now_mm) put(id, slot, Math.round(shift));
  });
})();
