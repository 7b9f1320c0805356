// The pencil: a form drawn on the plan, freehand, corner by corner, or as a box. The server makes an outline of it.
import { post } from "./parts.js";
import { placeOn } from "./stage.js";

const WORDS = {
  freehand: "Drag along it on the plan.",
  corners: "Click its corners on the plan; Enter, or the first one again, ends it.",
  rectangle: "Drag from corner to corner.",
  ellipse: "Drag from corner to corner of its box.",
};
const NEAR_PX = 12;
let drew = false; // whether the click that ends this press belongs to the pencil, and chooses nothing
let drawing = null; // {tool, bar, svg, shown, places, stage, down}

function stop() {
  if (!drawing) return;
  drawing.shown.remove();
  drawing.svg.classList.remove("drawing");
  for (const button of drawing.bar.querySelectorAll("[data-tool]")) button.setAttribute("aria-pressed", "false");
  drawing.bar.querySelector("output").textContent = "";
  drawing = null;
}

function take(button) {
  const was = drawing?.tool;
  stop();
  if (was === button.dataset.tool) return;
  const svg = document.querySelector("svg.panels");
  const shown = document.createElementNS("http://www.w3.org/2000/svg", "polyline");
  shown.setAttribute("class", "stroke");
  svg.append(shown);
  svg.classList.add("drawing");
  button.setAttribute("aria-pressed", "true");
  const bar = button.closest(".pencil");
  bar.querySelector("output").textContent = WORDS[button.dataset.tool];
  drawing = { tool: button.dataset.tool, bar, svg, shown, places: [], stage: null, down: false };
  svg.scrollIntoView({ block: "nearest" });
}

function onScreen({ x, y }) {
  return [drawing.stage.left + x * drawing.stage.scale, drawing.stage.bottom - y * drawing.stage.scale];
}

function show(last = null) {
  const boxed = drawing.tool === "rectangle" || drawing.tool === "ellipse";
  const all = last ? [...drawing.places, last] : drawing.places;
  let line = all.map(onScreen);
  if (boxed && line.length > 1) {
    const [[a, b], [c, d]] = [line[0], line.at(-1)];
    const turns = [...Array(37).keys()].map((one) => (one * Math.PI) / 18);
    line =
      drawing.tool === "rectangle"
        ? [[a, b], [c, b], [c, d], [a, d], [a, b]]
        : turns.map((turn) => [(a + c) / 2 + ((c - a) / 2) * Math.cos(turn), (b + d) / 2 + ((d - b) / 2) * Math.sin(turn)]);
  }
  drawing.shown.setAttribute("points", line.map((one) => one.map((px) => px.toFixed(1)).join(",")).join(" "));
}

function finish() {
  const { bar, tool, places, stage } = drawing;
  const line = places.map(({ x, y }) => [Math.round(x * 10) / 10, Math.round(y * 10) / 10]);
  stop();
  if (line.length < 2) return;
  post(bar.dataset.url, { base: stage.base, kind: bar.querySelector("select").value, tool, line: JSON.stringify(line) });
}

document.addEventListener("click", (event) => {
  const button = event.target.closest?.(".pencil [data-tool]");
  if (button) take(button);
});

// Before the handles of the drawing hear of it.
const early = { capture: true };
document.addEventListener(
  "pointerdown",
  (event) => {
    drew = false;
    if (!drawing || !drawing.svg.contains(event.target) || event.button) return;
    const place = placeOn(drawing.svg, event);
    if (!place) return;
    event.preventDefault();
    event.stopPropagation();
    drew = true;
    drawing.stage = place.stage;
    if (drawing.tool === "corners") {
      const [first] = drawing.places;
      const [x, y] = onScreen(place);
      const [a, b] = first ? onScreen(first) : [Infinity, Infinity];
      if (drawing.places.length > 2 && Math.hypot(x - a, y - b) < NEAR_PX) finish();
      else {
        drawing.places.push(place);
        show();
      }
      return;
    }
    drawing.down = true;
    drawing.places = [place];
  },
  early,
);
document.addEventListener(
  "pointermove",
  (event) => {
    if (!drawing?.stage) return;
    const place = placeOn(drawing.svg, event);
    if (!place) return;
    if (drawing.tool === "corners") show(place);
    else if (drawing.down) {
      drawing.places.push(place);
      show();
    }
    event.stopPropagation();
  },
  early,
);
document.addEventListener(
  "pointerup",
  (event) => {
    if (!drawing?.down) return;
    event.stopPropagation();
    finish();
  },
  early,
);
document.addEventListener("pointercancel", stop);
document.addEventListener("dragstart", (event) => drew && event.preventDefault());
document.addEventListener(
  "click",
  (event) => {
    if (!drew) return;
    event.preventDefault();
    event.stopPropagation();
    drew = false;
  },
  early,
);
document.addEventListener("keydown", (event) => {
  if (!drawing) return;
  if (event.key === "Escape") stop();
  if (event.key === "Enter" && drawing.tool === "corners" && drawing.places.length) {
    event.preventDefault();
    finish();
  }
});
