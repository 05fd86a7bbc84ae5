// The pack on a phone: where one is, what comes next by this rider's clock, where things are, and what happened.
"use strict";
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const OFFERS = JSON.parse(document.getElementById("offers").textContent);
  const KEY = `stonechat-pack ${data.plan} ${data.variant} ${data.start}`;
  const { course, stops, legs, late, bags, sheets } = data;
  const length = course.km[course.km.length - 1];
  const view = document.getElementById("view");
  const FAR_KM = 5,
    DAY = 86400,
    STRANGE_H = 14;
  const TABS = [
    ["now", "Now"],
    ["stops", "Stops"],
    ["bags", "Bags"],
    ["lists", "Lists"],
    ["notes", "Notes"],
  ];

  // ---- what is kept on this phone, and nowhere else
  const fresh = {
    tab: "now",
    km: 0,
    told: null,
    at: null,
    late: 0,
    auto: false,
    ticks: {},
    notes: [],
    list: "",
    day: false,
    find: "",
  };
  let state = fresh,
    isKept = true,
    message = "";
  try {
    state = { ...fresh, ...JSON.parse(localStorage.getItem(KEY) || "{}") };
  } catch (error) {
    isKept = false;
  }
  // kept twice: a browser that is killed writes the one later than the other
  const store = new Promise((done) => {
    try {
      const asked = indexedDB.open("stonechat-pack", 1);
      asked.onupgradeneeded = () => asked.result.createObjectStore("kept");
      asked.onsuccess = () => done(asked.result);
      asked.onerror = () => done(null);
    } catch (error) {
      done(null);
    }
  });
  const keep = () => {
    state.saved = Date.now();
    try {
      localStorage.setItem(KEY, JSON.stringify(state));
      isKept = true;
    } catch (error) {
      isKept = false;
    }
    const copy = JSON.stringify(state);
    store.then((base) => {
      if (base) base.transaction("kept", "readwrite").objectStore("kept").put(copy, KEY);
    });
  };
  const recall = (base) => {
    if (!base) return;
    const asked = base.transaction("kept").objectStore("kept").get(KEY);
    asked.onsuccess = () => {
      const found = asked.result ? JSON.parse(asked.result) : null;
      if (found && (found.saved || 0) > (state.saved || 0)) {
        state = { ...fresh, ...found };
        draw();
      }
    };
  };

  // ---- figures
  const between = (xs, ys, x) => {
    if (x <= xs[0]) return ys[0];
    let low = 0,
      high = xs.length - 1;
    if (x >= xs[high]) return ys[high];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (xs[middle] <= x) low = middle;
      else high = middle;
    }
    const span = xs[high] - xs[low];
    return span > 0 ? ys[low] + ((ys[high] - ys[low]) * (x - xs[low])) / span : ys[high];
  };
  const plannedAt = (km) => between(course.km, course.s, km);
  const nodeAt = (km) => legs.reduce((found, leg, k) => (leg.km <= km + 0.05 ? k : found), 0);
  const row = (table, node, delay) => {
    // as the program reads its table: a straight line between two delays, the nearer side of a jump
    const place = late.nodes.reduce((found, leg, k) => (leg <= node ? k : found), 0);
    const steps = late.delays,
      values = table[place];
    let k = 1;
    while (k < steps.length - 1 && steps[k] < delay) k += 1;
    const low = steps[k - 1],
      high = steps[k],
      share = (delay - low) / (high - low);
    const found = values[k].map((after, j) => {
      const a = values[k - 1][j] * 10,
        b = after * 10;
      if (Math.abs(b - a) > late.jump * (high - low)) return share < 0.5 ? a + (delay - low) : b + (delay - high);
      return a + share * (b - a);
    });
    return Array(late.nodes[place]).fill(null).concat(found);
  };
  const timesFrom = (km, delay) => {
    const node = nodeAt(km);
    return { arr: row(late.arr, node, delay) };
  };
  // the clock may be set on the way: each offset from a moment on
  const zoneAt = (seconds) => data.zones.reduce((found, [from, minutes]) => (from <= seconds ? minutes : found), data.zones[0][1]);
  const clockOf = (seconds) => new Date((data.start + seconds + zoneAt(seconds) * 60) * 1000);
  const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
  const two = (value) => String(value).padStart(2, "0");
  const clock = (seconds) => {
    const then = clockOf(seconds);
    return `${DAYS[then.getUTCDay()]} ${two(then.getUTCHours())}:${two(then.getUTCMinutes())}`;
  };
  const span = (seconds) => {
    const minutes = Math.round(Math.abs(seconds) / 60);
    return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${two(minutes % 60)}`;
  };
  const kms = (value) => (value < 10 ? value.toFixed(1) : value.toFixed(0)) + " km";
  const nowS = () => Date.now() / 1000 - data.start;
  const delayNow = () => (state.auto ? nowS() - plannedAt(state.km) : state.late);
  const timeHere = () => plannedAt(state.km) + delayNow();

  const doorsAt = (stop, then) => {
    if (!stop.doors) return { known: false, words: stop.hours === "" ? "hours not known" : stop.hours };
    const door = stop.doors.find(([opens, shuts]) => opens <= then && then < shuts);
    if (door) {
      const left = door[1] - then;
      return {
        known: true,
        open: true,
        words: left > DAY ? "always open" : `open till ${clock(door[1]).slice(4)}`,
        left,
      };
    }
    const next = stop.doors.find(([opens]) => opens > then);
    return { known: true, open: false, words: next ? `shut, opens ${clock(next[0])}` : "shut" };
  };

  // ---- building pages without any markup from data
  const make = (kind, given = {}, ...inside) => {
    const node = document.createElement(kind);
    for (const [name, value] of Object.entries(given)) {
      if (name === "on") Object.entries(value).forEach(([event, act]) => node.addEventListener(event, act));
      else if (value === true) node.setAttribute(name, "");
      else if (value !== false && value !== null && value !== undefined) node.setAttribute(name, value);
    }
    node.append(...inside.filter((one) => one !== null && one !== undefined && one !== ""));
    return node;
  };
  const words = (kind, text, given) => make(kind, given, String(text));
  const button = (label, act, given = {}) => make("button", { type: "button", on: { click: act }, ...given }, label);

  // ---- where am I
  const goTo = (km, from) => {
    state.km = Math.min(length, Math.max(0, km));
    state.told = from;
    state.at = Date.now();
    keep();
    draw();
  };
  const match = (lat, lon) => {
    const east = Math.cos((lat * Math.PI) / 180) * 111.32,
      north = 110.57;
    let best = [Infinity, 0];
    for (let k = 0; k + 1 < course.km.length; k += 1) {
      const ax = (course.lon[k] - lon) * east,
        ay = (course.lat[k] - lat) * north;
      const bx = (course.lon[k + 1] - lon) * east - ax,
        by = (course.lat[k + 1] - lat) * north - ay;
      const size = bx * bx + by * by;
      const share = size > 0 ? Math.min(1, Math.max(0, -(ax * bx + ay * by) / size)) : 0;
      const off = Math.hypot(ax + share * bx, ay + share * by);
      const km = course.km[k] + share * (course.km[k + 1] - course.km[k]);
      // a course that meets itself: of two as near, the one that is nearer to where one was
      if (off < best[0] - 0.05 || (off < best[0] + 0.05 && Math.abs(km - state.km) < Math.abs(best[1] - state.km)))
        best = [off, km];
    }
    return best;
  };
  const said = (text) => {
    message = text;
    draw();
  };
  const locate = () => {
    if (!navigator.geolocation) return said("This browser gives no position. Type the km, or tap a stop.");
    said("Looking for the position …");
    navigator.geolocation.getCurrentPosition(
      (found) => {
        const [off, km] = match(found.coords.latitude, found.coords.longitude);
        if (off > FAR_KM)
          return said(
            `That is ${kms(off)} off the course, nearest at ${kms(km)}. The place stays as it was; type the km if you know it.`,
          );
        message = off > 0.3 ? `${kms(off)} off the course.` : "";
        goTo(km, "position");
      },
      () => said("No position. Allow it for this page, or type the km."),
      { enableHighAccuracy: true, timeout: 30000, maximumAge: 60000 },
    );
  };

  // ---- pages
  const ahead = (km) => stops.map((stop, k) => ({ ...stop, k })).filter((stop) => stop.km > km + 0.05);
  const lateWords = (delay) => (Math.abs(delay) < 90 ? "on plan" : `${span(delay)} ${delay > 0 ? "late" : "early"}`);

  const nextOf = (title, has, times) => {
    const all = ahead(state.km).filter(has);
    if (!all.length)
      return make(
        "div",
        { class: "next" },
        words("span", title, { class: "what" }),
        words("span", "none ahead", { class: "far" }),
      );
    const stop = all[0],
      then = times.arr[stop.k],
      door = doorsAt(stop, then);
    const up = between(course.km, course.up, stop.km) - between(course.km, course.up, state.km);
    const opened = all.find((one) => {
      const d = doorsAt(one, times.arr[one.k]);
      return !d.known || d.open;
    });
    return make(
      "div",
      { class: "next" + (stop.must ? " must" : "") },
      words("span", `${title}: ${stop.name}`, { class: "what" }),
      words("span", kms(stop.km - state.km), { class: "far" }),
      make(
        "span",
        { class: "more" },
        `↑ ${up.toFixed(0)} m, in ${span(then - timeHere())} with rests, ${clock(then)}`,
        make("br"),
        words("span", door.words, { class: door.known && !door.open ? "warn" : "faint" }),
        opened && opened !== stop
          ? words("span", ` · then ${opened.name}, ${kms(opened.km - state.km)}`, { class: "faint" })
          : "",
      ),
    );
  };

  const pageNow = () => {
    const delay = delayNow(),
      here = stops.find((stop) => Math.abs(stop.km - state.km) < 1.5);
    const times = timesFrom(state.km, delay),
      leg = legs[nodeAt(state.km)];
    const strange = state.auto && Math.abs(delay) > STRANGE_H * 3600;
    const typed = make("input", {
      id: "km",
      inputmode: "decimal",
      value: state.km.toFixed(1),
      "aria-describedby": "where",
    });
    const set = () => {
      const km = Number(typed.value.replace(",", "."));
      if (typed.value.trim() === "" || !Number.isFinite(km) || km < 0 || km > length)
        return said(`“${typed.value.slice(0, 12)}” is no km of this course of ${kms(length)}.`);
      message = "";
      goTo(km, "typed");
    };
    const by = (hours) => () => {
      state.late = Math.max(-7200, Math.min(43200, delayNow() + hours * 3600));
      state.auto = false;
      keep();
      draw();
    };
    return [
      make("p", { class: "big", id: "here" }, kms(state.km)),
      make(
        "p",
        { id: "where", class: "faint" },
        here ? `at ${here.name}; ` : "",
        `${kms(length - state.km)} to go, ${lateWords(delay)}`,
      ),
      message ? words("p", message, { class: "warn", role: "status" }) : null,
      strange
        ? words("p", `The phone's clock is ${span(delay)} from the plan. Is its day right? Use “late by” instead.`, {
            class: "warn",
            role: "status",
          })
        : null,
      make(
        "div",
        { class: "row" },
        make("div", {}, make("label", { for: "km" }, "I am at km"), typed),
        button("Set", set),
        button("Find me", locate),
      ),
      make(
        "div",
        { class: "row", role: "group", "aria-label": "How late" },
        button("−½ h", by(-0.5), { "aria-label": "half an hour earlier" }),
        button("+½ h", by(0.5), { "aria-label": "half an hour later" }),
        button("+2 h", by(2), { "aria-label": "2 h later" }),
        button(
          "clock",
          () => {
            state.auto = !state.auto;
            if (!state.auto) state.late = 0;
            keep();
            draw();
          },
          { "aria-pressed": String(state.auto), "aria-label": "late by this phone's clock" },
        ),
      ),
      Math.abs(delay) > 90 && !state.auto
        ? button("On plan again", () => {
            state.late = 0;
            keep();
            draw();
          })
        : null,
      words("h1", "What comes next"),
      nextOf("Water", (stop) => stop.offers.includes("water") || stop.offers.includes("doubtful_water"), times),
      nextOf("Food", (stop) => stop.offers.includes("shop") || stop.offers.includes("meal"), times),
      nextOf("Bed", (stop) => stop.offers.includes("bed"), times),
      nextOf("Bike shop", (stop) => stop.offers.includes("bike_shop"), times),
      cutOff(times),
      make(
        "div",
        { class: "next" },
        words("span", "Finish", { class: "what" }),
        words("span", clock(times.arr[stops.length - 1]), { class: "far", id: "finish" }),
      ),
      words("h1", here ? `Leave ${here.name} with` : "Aboard on this leg, from its start"),
      make(
        "p",
        { class: "big" },
        here && here.water !== null && here.water !== undefined
          ? `${here.water.toFixed(1)} l`
          : `${leg.water.toFixed(1)} l`,
        `, ${here && here.kcal ? here.kcal : leg.kcal} kcal`,
      ),
      leg.wear ? words("p", leg.wear, { class: "faint" }) : null,
    ];
  };
  const cutOff = (times) => {
    const stop = ahead(state.km).find((one) => one.cut !== null);
    if (!stop) return null;
    const left = stop.cut - times.arr[stop.k];
    return make(
      "div",
      { class: "next" },
      words("span", `Cut-off ${stop.name}`, { class: "what" }),
      words("span", clock(stop.cut), { class: "far" }),
      make(
        "span",
        { class: "more" },
        words("span", left < 0 ? `${span(left)} too late` : `${span(left)} to spare`, {
          class: left < 3600 ? "warn" : "faint",
        }),
      ),
    );
  };

  const pageStops = () => {
    const times = timesFrom(state.km, delayNow());
    const behind = stops.filter((stop) => stop.km < state.km - 0.05).length;
    const all = stops.map((stop, k) => {
      const gone = stop.km < state.km - 0.05,
        then = times.arr[k] === null ? stop.arr : times.arr[k],
        door = doorsAt(stop, then);
      const leave = [
        stop.water !== null && stop.water !== undefined ? `${stop.water.toFixed(1)} l` : "",
        stop.kcal ? `${stop.kcal} kcal` : "",
      ]
        .filter(Boolean)
        .join(", ");
      return button(
        "",
        () => {
          state.tab = "now";
          message = "";
          goTo(stop.km, "tapped");
        },
        { class: `stop${gone ? " gone" : ""}${stop.must ? " must" : ""}` },
      )
        .appendChild(words("span", stop.km.toFixed(0), { class: "km" }))
        .parentNode.appendChild(words("span", stop.name, { class: "name" }))
        .parentNode.appendChild(words("span", clock(then), {}))
        .parentNode.appendChild(
          make(
            "span",
            { class: "more" },
            stop.offers.map((key) => OFFERS[key]).join(", "),
            stop.offers.length ? make("br") : "",
            k < stops.length - 1
              ? words("span", stop.past ? "ride past" : door.words, {
                  class: door.known && !door.open && !gone ? "warn" : "",
                })
              : "",
            leave ? ` · leave with ${leave}` : "",
            stop.must ? words("span", " · not to be missed", { class: "warn" }) : "",
            stop.note ? make("br") : "",
            stop.note || "",
          ),
        ).parentNode;
    });
    return [
      words("p", "Tap a stop to be there.", { class: "faint" }),
      behind ? make("details", {}, words("summary", `${behind} behind`), ...all.slice(0, behind)) : null,
      ...all.slice(behind),
    ];
  };

  const plainWord = (text) => text.toLowerCase().normalize("NFD").replace(/\p{M}/gu, "");
  const pageBags = () => {
    const node = nodeAt(state.km),
      held = bags.states[bags.legs[node]],
      amounts = bags.amounts[node];
    const asked = make("input", {
      id: "find",
      type: "search",
      value: state.find,
      autocomplete: "off",
      placeholder: "first letters",
    });
    const shown = make("div", { id: "found" });
    const fill = () => {
      state.find = asked.value;
      keep();
      const wanted = plainWord(state.find.trim());
      const fits = (k) =>
        !wanted ||
        plainWord(bags.things[k])
          .split(/[\s,]+/)
          .some((word) => word.startsWith(wanted)) ||
        plainWord(bags.things[k]).startsWith(wanted);
      const parts = [];
      held.forEach(([name, things], j) => {
        const mine = things.filter(fits),
          [water, food] = amounts[j];
        const more = wanted
          ? []
          : [water ? `water ${water.toFixed(1)} l` : "", food > 0.05 ? `food ${food.toFixed(1)} l` : ""].filter(
              Boolean,
            );
        if (mine.length || more.length)
          parts.push(
            words("h2", name),
            make(
              "ul",
              {},
              ...mine.map((k) => words("li", bags.things[k])),
              ...more.map((text) => words("li", text, { class: "faint" })),
            ),
          );
      });
      const on = bags.on.filter(fits);
      if (on.length)
        parts.push(words("h2", "Worn, or on the bike"), make("ul", {}, ...on.map((k) => words("li", bags.things[k]))));
      if (!parts.length) parts.push(words("p", `Nothing aboard begins with “${state.find}”.`, { class: "warn" }));
      shown.replaceChildren(...parts);
    };
    asked.addEventListener("input", fill);
    fill();
    return [
      make("label", { for: "find" }, "Where is …"),
      asked,
      words("p", `As packed from ${kms(legs[node].km)} on.`, { class: "faint" }),
      shown,
    ];
  };

  const tickKey = (sheet, part, text) => `${sheet} ${part} ${text}`;
  const pageLists = () => {
    const sheet = sheets.find((one) => one.key === state.list);
    if (!sheet) {
      return [
        make(
          "div",
          { class: "row" },
          ...sheets.map((one) =>
            button(one.title, () => {
              state.list = one.key;
              keep();
              draw();
            }),
          ),
        ),
      ];
    }
    const line =
      (part) =>
      ([figure, text, note, must]) => {
        const inside = [
          figure ? words("span", figure, { class: "figure" }) : "",
          words("span", text, { class: must ? "warn" : "" }),
          note ? make("br") : "",
          note ? words("span", note, { class: "faint" }) : "",
        ];
        if (!sheet.ticks) return make("li", {}, ...inside);
        const key = tickKey(sheet.key, part.title, text),
          id = `tick-${key}`,
          done = Boolean(state.ticks[key]);
        const box = make("input", {
          type: "checkbox",
          id,
          on: {
            change: () => {
              if (box.checked) state.ticks[key] = Date.now();
              else delete state.ticks[key];
              keep();
              box.parentNode.classList.toggle("done", box.checked);
            },
          },
        });
        box.checked = done;
        return make("li", { class: done ? "tick done" : "tick" }, box, make("label", { for: id }, ...inside));
      };
    return [
      button("All lists", () => {
        state.list = "";
        keep();
        draw();
      }),
      words("h1", sheet.title),
      sheet.caution ? words("p", sheet.caution, { class: "faint" }) : null,
      ...sheet.parts.flatMap((part) => [
        words("h2", part.title),
        part.sub ? words("p", part.sub, { class: "faint" }) : null,
        make("ul", {}, ...part.lines.map(line(part))),
      ]),
    ];
  };

  // ---- how notes get back: a file, or codes that the other screen's camera reads
  const TICKED = { shopping: "bought", repacking: "moved" };
  const allNotes = () => {
    const notes = state.notes.slice();
    // a tick on a list about a place is a note of its own
    for (const sheet of sheets.filter((one) => TICKED[one.key]))
      for (const part of sheet.parts)
        for (const [, text] of part.lines) {
          const at = state.ticks[tickKey(sheet.key, part.title, text)];
          if (at && part.km !== null)
            notes.push({ kind: TICKED[sheet.key], text, km: part.km, at: new Date(at).toISOString() });
        }
    return { format: "stonechat-notes", version: 1, plan: data.plan, variant: data.variant, start: data.start, notes };
  };
  const ON_ONE = 280, // characters of a code, so that a plain camera reads it
    EACH_MS = 900;
  let codes = null,
    codeAt = 0,
    turning = 0;
  const packed = async (text) => {
    const bytes = new TextEncoder().encode(text);
    if (!window.CompressionStream) return ["p", bytes];
    const stream = new Blob([bytes]).stream().pipeThrough(new CompressionStream("deflate-raw"));
    return ["z", new Uint8Array(await new Response(stream).arrayBuffer())];
  };
  const showCodes = async () => {
    const [way, bytes] = await packed(JSON.stringify(allNotes()));
    const body = btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(""))
      .replace(/\+/g, "-")
      .replace(/\//g, "_")
      .replace(/=+$/, "");
    const count = Math.ceil(body.length / ON_ONE),
      name = Date.now().toString(36);
    codes = Array.from(
      { length: count },
      (_, k) => `STONECHAT1:${name}:${k + 1}/${count}:${way}:${body.slice(k * ON_ONE, (k + 1) * ON_ONE)}`,
    );
    codeAt = 0;
    clearInterval(turning);
    turning = setInterval(() => turn(1), EACH_MS);
    draw();
  };
  const hideCodes = () => {
    clearInterval(turning);
    codes = null;
  };
  const turn = (step) => {
    const canvas = document.getElementById("code");
    if (!codes || !canvas) return;
    codeAt = (codeAt + step + codes.length) % codes.length;
    drawCode(canvas);
    document.getElementById("code-at").textContent = `${codeAt + 1} of ${codes.length}`;
  };
  const drawCode = (canvas) => {
    const made = qrcode(0, "L");
    made.addData(codes[codeAt], "Byte");
    made.make();
    const size = made.getModuleCount(),
      dot = Math.ceil(340 / (size + 8));
    canvas.width = canvas.height = (size + 8) * dot;
    const pen = canvas.getContext("2d");
    // black on white, also at night: it is for a camera
    pen.fillStyle = "#fff";
    pen.fillRect(0, 0, canvas.width, canvas.height);
    pen.fillStyle = "#000";
    for (let y = 0; y < size; y += 1)
      for (let x = 0; x < size; x += 1) if (made.isDark(y, x)) pen.fillRect((x + 4) * dot, (y + 4) * dot, dot, dot);
  };
  const codePage = () => {
    const canvas = make("canvas", { id: "code", role: "img", "aria-label": "code for the camera" });
    drawCode(canvas);
    const hold = (step) => () => {
      clearInterval(turning);
      turn(step);
    };
    return make(
      "div",
      { class: "codes" },
      words("p", "In the Diary choose “Read codes by the camera” and hold this before it, or take a picture of each."),
      canvas,
      make(
        "div",
        { class: "row" },
        button("Back", hold(-1)),
        words("span", `${codeAt + 1} of ${codes.length}`, { id: "code-at" }),
        button("Next", hold(1)),
        button("Done", () => {
          hideCodes();
          draw();
        }),
      ),
    );
  };

  const KINDS = ["eaten", "drunk", "bought", "slept", "lost", "broken", "moved", "cold", "warm", "note"];
  const pageNotes = () => {
    if (codes) return [codePage()]; // alone, so that nothing lies over it
    const text = make("textarea", { id: "note", rows: 2, maxlength: 500 });
    const add = (kind) => () => {
      state.notes.push({
        kind,
        text: text.value.trim(),
        km: Number(state.km.toFixed(2)),
        at: new Date().toISOString(),
        planned_s: Math.round(plannedAt(state.km)),
        late_s: Math.round(delayNow()),
      });
      keep();
      draw();
    };
    const give = () => {
      const link = make("a", {
        href: URL.createObjectURL(new Blob([JSON.stringify({ ...allNotes(), ticks: state.ticks }, null, 1)], { type: "application/json" })),
        download: "stonechat-notes.json",
      });
      document.body.append(link);
      link.click();
      link.remove();
    };
    return [
      isKept
        ? null
        : words(
            "p",
            "This browser keeps nothing for this page: notes are lost when it is shut. Give them out before.",
            { class: "warn", role: "status" },
          ),
      make("label", { for: "note" }, `What happened at ${kms(state.km)}`),
      text,
      make("div", { class: "row" }, ...KINDS.map((kind) => button(kind, add(kind)))),
      make(
        "div",
        { class: "row" },
        button("Give the notes out as a file", give),
        button("Show them as codes", showCodes),
      ),
      words("h1", "Noted"),
      make(
        "ul",
        { id: "noted" },
        ...state.notes
          .slice()
          .reverse()
          .map((note) =>
            make(
              "li",
              {},
              words("span", kms(note.km), { class: "figure" }),
              `${note.kind}${note.text ? `: ${note.text}` : ""}`,
              make("br"),
              words("span", new Date(note.at).toLocaleString(), { class: "faint" }),
            ),
          ),
      ),
      state.notes.length
        ? button("Take the last one back", () => {
            state.notes.pop();
            keep();
            draw();
          })
        : words("p", "Nothing yet.", { class: "faint" }),
      words("h1", "This page"),
      button(state.day ? "Night look" : "Day look", () => {
        state.day = !state.day;
        keep();
        draw();
      }),
      words("p", "Nothing leaves this phone. Times are estimates; doors may be shut all the same.", { class: "faint" }),
    ];
  };

  const PAGES = { now: pageNow, stops: pageStops, bags: pageBags, lists: pageLists, notes: pageNotes };
  function draw() {
    document.documentElement.classList.toggle("day", state.day);
    document.getElementById("clock").textContent = `${clock(timeHere())} · ${kms(state.km)} · ${lateWords(delayNow())}`;
    view.replaceChildren(...PAGES[state.tab]().filter(Boolean));
    document.getElementById("tabs").replaceChildren(
      ...TABS.map(([key, name]) =>
        button(
          name,
          () => {
            state.tab = key;
            hideCodes();
            keep();
            draw();
            window.scrollTo(0, 0);
            view.focus();
          },
          { "aria-current": key === state.tab ? "page" : null },
        ),
      ),
    );
  }
  if (!PAGES[state.tab]) state.tab = "now";
  setInterval(() => {
    if (state.auto && state.tab === "now" && document.activeElement.id !== "km") draw();
  }, 60000);
  draw();
  store.then(recall);
  if ("serviceWorker" in navigator && location.protocol.startsWith("http"))
    navigator.serviceWorker.register("worker.js").catch(() => undefined);
  if (navigator.storage && navigator.storage.persist) navigator.storage.persist().catch(() => undefined);
  window.stonechatPack = { timesFrom, match, plannedAt };
})();
