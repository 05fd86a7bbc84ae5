// What the scripts of a page share: messages, lines that speak, colours of the theme, points of a drawing.
const page = (() => {
  // one sentence where the page has its messages; none takes them away
  const message = (words) => {
    const area = document.getElementById("messages");
    if (!area) return null;
    area.replaceChildren();
    if (!words) return null;
    const box = document.createElement("div");
    box.className = "message";
    const line = document.createElement("p");
    line.textContent = words;
    box.append(line);
    area.append(box);
    return box;
  };

  // words for a line of the page that is read aloud
  const say = (id, words) => {
    const line = document.getElementById(id);
    if (line) line.textContent = words;
  };

  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

  // where a pointer is, in the units of a drawing
  const pointIn = (svg, event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return [point.x, point.y];
  };

  // a name of its own for each load of a page: the server tells its changes from those of another tab
  const name = [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

  return { message, say, colour, pointIn, name };
})();

// on a phone a tap on a carrier of the drawing brings what is in it
document.addEventListener("click", (event) => {
  const shape = window.innerWidth < 700 && event.target.closest(".rig [data-carrier]");
  const place = shape && document.querySelector(`.places > [data-carrier="${CSS.escape(shape.dataset.carrier)}"]`);
  if (place) place.scrollIntoView({ block: "center", inline: "start" });
});

// on a phone the words of the rooms are wider than the bar: the one that is shown is in sight
(() => {
  const inSight = () => {
    const here = document.querySelector(".bar .rooms a[aria-current]");
    if (!here) return;
    const row = here.parentElement;
    row.scrollLeft = here.offsetLeft - row.offsetLeft - (row.clientWidth - here.offsetWidth) / 2;
  };
  document.addEventListener("DOMContentLoaded", inSight);
  document.addEventListener("htmx:afterSettle", inSight);
})();
