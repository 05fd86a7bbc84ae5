// Rests and stays on the race by the clock: dragged, or moved by keys; the finish follows while they move.
(() => {
  const STEP = 300; // s, what a drag snaps to
  const KEY = 900; // s, what a key moves
  let held = null;
  let asked = 0;

  const race = () => document.querySelector("svg[data-race]");
  const say = (words) => page.say("race-says", words);
  const clock = (seconds) => {
    const minutes = Math.round((((seconds % 86400) + 86400) % 86400) / 60) % 1440;
    return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
  };
  const snap = (seconds, step) => Math.round(seconds / step) * step;

  const take = (group, edge) => {
    const block = group.querySelector(".block");
    held = {
      group,
      block,
      edge: edge || group.dataset.stay !== undefined || group.dataset.at !== "",
      x: Number(block.getAttribute("x")),
      width: Number(block.getAttribute("width")),
      begins: Number(group.dataset.begins),
      ends: Number(group.dataset.ends),
    };
    held.from = held.begins;
    held.to = held.ends;
    group.classList.add("held");
  };

  const words = () => {
    const hours = (held.to - held.from) / 3600;
    if (held.group.dataset.stay !== undefined) return `Stay of ${Math.round(hours * 60)} min`;
    return `Night ${Number(held.group.dataset.night) + 1}: ${clock(held.from)} to ${clock(held.to)}, ${hours.toFixed(1)} h`;
  };

  const move = (by, step) => {
    const isStay = held.group.dataset.stay !== undefined;
    const from = isStay ? held.begins : 0; // a stay snaps by its own length, a rest by the clock
    if (held.edge) held.to = Math.max(held.begins + (isStay ? 0 : 1800), from + snap(held.ends + by - from, step));
    else {
      held.from = snap(held.begins + by, step);
      held.to = held.ends + held.from - held.begins;
    }
    const unit = 1 / Number(race().dataset.perUnit);
    held.block.setAttribute("x", held.x + (held.from - held.begins) * unit);
    held.block.setAttribute("width", Math.max(2, held.width + (held.to - held.from - held.ends + held.begins) * unit));
    say(words());
    preview();
  };

  const query = () => {
    const minutes = Math.round((held.to - held.from) / 60);
    if (held.group.dataset.stay !== undefined) return { stop: held.group.dataset.stay, stay_min: String(minutes) };
    return { night: held.group.dataset.night, start: clock(held.from), end: clock(held.to) };
  };

  const preview = () => {
    const mine = (asked += 1);
    setTimeout(async () => {
      if (mine !== asked || !held) return;
      const answer = await fetch(`${race().dataset.preview}?${new URLSearchParams(query())}`, { headers: { Accept: "application/json" } });
      const found = await answer.json();
      if (mine === asked && held) say(answer.ok ? `${words()}; finish ${found.finish}, ${found.change}` : found.error);
    }, 120);
  };

  const keep = () => {
    const { group, from, to, begins, ends } = held;
    release();
    if (from === begins && to === ends) return;
    const shared = { revision: document.querySelector("#stage input[name=revision]").value, leg: document.querySelector("#stage input[name=leg]").value };
    let address = `${race().dataset.nights}/${group.dataset.night}`;
    let values = { kind: "until", start: clock(from), end: clock(to), sleep_h: "0" };
    if (group.dataset.stay !== undefined) {
      address = `${race().dataset.stays}/${group.dataset.stay}`;
      values = { stay_min: String(Math.round((to - from) / 60)) };
    } else if (group.dataset.at) {
      address += "/at";
      values = { stop: group.dataset.at, sleep_h: ((to - from - Number(race().dataset.camp)) / 3600).toFixed(2) };
    }
    htmx.ajax("POST", address, { target: "#stage", swap: "outerHTML show:none", values: { ...values, ...shared } });
  };

  const release = () => {
    if (held) held.group.classList.remove("held");
    held = null;
    asked += 1;
  };

  const putBack = () => {
    held.block.setAttribute("x", held.x);
    held.block.setAttribute("width", held.width);
    release();
    say("");
  };

  let grabbed = null; // pointer's x where it took hold
  const across = (event) => {
    const svg = race();
    return page.pointIn(svg, event)[0];
  };
  document.addEventListener("pointerdown", (event) => {
    const group = event.button === 0 && event.target.closest && event.target.closest("svg[data-race] .rest, svg[data-race] .stay");
    if (!group) return;
    take(group, event.target.classList.contains("edge"));
    grabbed = across(event);
    group.focus();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (grabbed === null || !held) return;
    const by = (across(event) - grabbed) * Number(race().dataset.perUnit);
    if (Math.abs(by) > STEP / 2) move(by, held.group.dataset.stay !== undefined ? 60 : STEP);
  });
  document.addEventListener("pointerup", () => {
    if (grabbed === null) return;
    grabbed = null;
    if (held) keep();
  });
  document.addEventListener("pointercancel", () => {
    grabbed = null;
    if (held) putBack();
  });

  document.addEventListener("keydown", (event) => {
    const group = event.target.closest && event.target.closest("svg[data-race] .rest, svg[data-race] .stay");
    if (!group || event.ctrlKey || event.metaKey || event.altKey) return;
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way) {
      event.preventDefault();
      const edge = event.shiftKey || group.dataset.stay !== undefined || group.dataset.at !== "";
      if (!held || held.group !== group) take(group, edge);
      held.edge = edge;
      const step = group.dataset.stay !== undefined ? 300 : KEY;
      const moved = held.edge ? held.to - held.ends : held.from - held.begins;
      move(moved + way * step, 60);
    } else if (event.key === "Enter" && held && held.group === group) {
      event.preventDefault();
      keep();
    } else if (event.key === "Escape" && held) {
      putBack();
    }
  });
  document.addEventListener("focusout", (event) => {
    if (held && grabbed === null && held.group.contains(event.target)) putBack();
  });
})();
