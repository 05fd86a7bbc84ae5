// The profile over distance, with surfaces, darkness and stops.
(() => {
  const { colour } = page;
  const SURFACE = {
    tarmac: "--tarmac",
    smooth_gravel: "--smooth-gravel",
    rough_gravel: "--rough-gravel",
    track: "--track",
    singletrack: "--singletrack",
    sand_mud: "--sand-mud",
    hike_a_bike: "--carried",
  };
  const drawn = [];

  const axis = (label, extra) => ({ label, stroke: colour("--ink"), grid: { stroke: colour("--line"), width: 1 }, ticks: { stroke: colour("--line") }, font: "13px 'Barlow Semi Condensed'", labelFont: "600 13px 'Barlow Semi Condensed'", ...extra });

  const size = (box) => ({ width: box.clientWidth, height: box.classList.contains("short") ? 230 : 290 });

  const fill = (u, from, to, top, bottom, style) => {
    const a = Math.max(u.valToPos(from, "x", true), u.bbox.left);
    const b = Math.min(u.valToPos(to, "x", true), u.bbox.left + u.bbox.width);
    if (b > a) {
      u.ctx.fillStyle = style;
      u.ctx.fillRect(a, top, b - a, bottom - top);
    }
  };

  const stopMarks = (u, stops, labels) => {
    const ratio = window.devicePixelRatio || 1;
    u.ctx.save();
    u.ctx.textAlign = "left";
    u.ctx.textBaseline = "alphabetic";
    u.ctx.font = `${12 * ratio}px 'Barlow Semi Condensed'`;
    u.ctx.fillStyle = colour("--ink");
    u.ctx.strokeStyle = colour("--faint");
    u.ctx.lineWidth = ratio;
    let free = -Infinity;
    for (const stop of stops) {
      const x = u.valToPos(stop.km, "x", true);
      if (x < u.bbox.left - 1 || x > u.bbox.left + u.bbox.width + 1) continue;
      u.ctx.beginPath();
      u.ctx.moveTo(x, u.bbox.top);
      u.ctx.lineTo(x, u.bbox.top + 7 * ratio);
      u.ctx.stroke();
      const wide = u.ctx.measureText(stop.name).width;
      const left = Math.min(x - wide / 2, u.bbox.left + u.bbox.width - wide);
      if (labels && left > free) {
        u.ctx.fillText(stop.name, left, u.bbox.top - 4 * ratio);
        free = left + wide + 8 * ratio;
      }
    }
    u.ctx.restore();
  };

  // the ground under the line, darker where it climbs, blue-grey where it falls; over half a kilometre or more
  const STEEP = [
    [0.08, "--grade-up3"],
    [0.05, "--grade-up2"],
    [0.02, "--grade-up1"],
    [-0.02, "--grade-flat"],
    [-0.05, "--grade-down1"],
    [-9, "--grade-down2"],
  ];
  const ground = (u, data) => {
    const bottom = u.bbox.top + u.bbox.height;
    const block = Math.max(0.5, (u.scales.x.max - u.scales.x.min) / 180);
    let from = 0;
    for (let index = 1; index < data.km.length; index += 1) {
      if (data.km[index] - data.km[from] < block && index < data.km.length - 1) continue;
      const grade = (data.height_m[index] - data.height_m[from]) / (data.run * (data.km[index] - data.km[from]));
      const a = Math.max(u.valToPos(data.km[from], "x", true), u.bbox.left);
      const b = Math.min(u.valToPos(data.km[index], "x", true), u.bbox.left + u.bbox.width);
      if (b > a) {
        u.ctx.fillStyle = colour(STEEP.find(([least]) => grade >= least)[1]);
        u.ctx.beginPath();
        u.ctx.moveTo(a, bottom);
        for (let k = from; k <= index; k += 1) {
          const x = Math.min(Math.max(u.valToPos(data.km[k], "x", true), a), b);
          u.ctx.lineTo(x, u.valToPos(data.height_m[k], "m", true));
        }
        u.ctx.lineTo(b + 1, u.valToPos(data.height_m[index], "m", true));
        u.ctx.lineTo(b + 1, bottom);
        u.ctx.fill();
      }
      from = index;
    }
  };

  const profile = (box, data) => {
    const spans = [];
    data.km.forEach((km, index) => {
      const last = spans[spans.length - 1];
      if (last && last.surface === data.surface[index]) last.to = km;
      else spans.push({ from: last ? last.to : km, to: km, surface: data.surface[index] });
    });
    const hooks = {
      drawClear: [
        (u) => {
          for (const [from, to] of data.dark_km) fill(u, from, to, u.bbox.top, u.bbox.top + u.bbox.height, colour("--tape-dark"));
          ground(u, data);
        },
      ],
      // while surfaces are painted, dragging takes a stretch in place of looking closer
      setSelect: [
        (u) => {
          const form = document.querySelector("details[open] > form[data-paint]");
          if (!form || u.select.width < 3) return;
          const from = Math.max(0, u.posToVal(u.select.left, "x"));
          const to = Math.min(data.km[data.km.length - 1], u.posToVal(u.select.left + u.select.width, "x"));
          form.elements.start_km.value = from.toFixed(1);
          form.elements.end_km.value = to.toFixed(1);
        },
      ],
      // while a stop is open, a click sets where it is
      ready: [
        (u) =>
          u.over.addEventListener("click", (event) => {
            const field = document.querySelector("form[data-opened] [name=distance_km]");
            if (field) field.value = Math.max(0, u.posToVal(event.offsetX, "x")).toFixed(1);
          }),
      ],
      draw: [
        (u) => {
          const ratio = window.devicePixelRatio || 1;
          const bottom = u.bbox.top + u.bbox.height;
          for (const span of spans) fill(u, span.from, span.to, bottom - 9 * ratio, bottom, colour(SURFACE[data.surfaces[span.surface].key]));
          stopMarks(u, data.stops, true);
        },
      ],
    };
    const options = {
      ...size(box),
      padding: [20, 12, 0, 0],
      hooks,
      cursor: { drag: { x: true, y: false, setScale: true } },
      scales: { x: { time: false }, m: { range: (u, low, high) => [low < 0 ? low - (high - low) * 0.12 : Math.max(0, low - (high - low) * 0.12), high + Math.max(1, (high - low) * 0.06)] } },
      axes: [axis(data.units.km[0], { size: 34, labelSize: 18 }), axis(`height in ${data.units.m[0]}`, { scale: "m", size: 62 })],
      series: [
        { label: data.units.km[0] },
        { label: `height in ${data.units.m[0]}`, scale: "m", stroke: colour("--ink"), width: 1.5, points: { show: false } },
        { label: "grade in %", scale: "g", stroke: colour("--accent"), width: 0, points: { show: false } },
      ],
    };
    return new uPlot(options, [data.km, data.height_m, data.grade_pct], box);
  };

  // a chart looks closer on dragging only while no surface is being painted
  document.addEventListener("toggle", (event) => {
    if (!event.target.matches || !event.target.matches(".paintbox")) return;
    for (const [, chart] of drawn) chart.cursor.drag.setScale = !event.target.open;
  }, true);

  // the program sends metric figures, and in which units this reader wants them
  const inUnits = (data) => {
    const [[, way], [, up]] = [data.units.km, data.units.m];
    const times = (values, factor) => values && values.map((value) => value * factor);
    return {
      ...data,
      run: (1000 * up) / way, // units of height in a unit of the way
      km: times(data.km, way),
      height_m: times(data.height_m, up),
      dark_km: data.dark_km && data.dark_km.map((span) => times(span, way)),
      stops: data.stops.map((stop) => ({ ...stop, km: stop.km * way })),
    };
  };

  const kept = new Map();
  const draw = async (box) => {
    const address = box.dataset.address;
    if (!kept.has(address)) {
      const answer = await fetch(address, { headers: { Accept: "application/json" } });
      if (!answer.ok) {
        box.textContent = "The chart could not be loaded; the table below holds the figures.";
        return;
      }
      kept.set(address, inUnits(await answer.json()));
    }
    await document.fonts.ready;
    box.replaceChildren();
    const chart = profile(box, kept.get(address));
    chart.cursor.drag.setScale = !document.querySelector(".paintbox[open]");
    drawn.push([box, chart]);
    box.dataset.drawn = "yes";
  };

  const drawAll = () => {
    drawn.splice(0).forEach(([box, chart]) => (document.contains(box) ? drawn.push([box, chart]) : chart.destroy()));
    for (const box of document.querySelectorAll("[data-chart]:not([data-drawn])")) draw(box);
  };
  const redraw = () => {
    for (const box of document.querySelectorAll("[data-chart]")) delete box.dataset.drawn;
    drawn.splice(0).forEach(([, chart]) => chart.destroy());
    drawAll();
  };

  document.addEventListener("DOMContentLoaded", drawAll);
  document.addEventListener("htmx:afterSettle", drawAll);
  document.addEventListener("stonechat:theme", redraw);
  let timer = 0;
  window.addEventListener("resize", () => {
    clearTimeout(timer);
    timer = setTimeout(() => drawn.forEach(([box, chart]) => chart.setSize(size(box))), 80);
  });
})();
