// The pencil: a form drawn on the plan, freehand, corner by corner, or as a box. The server makes an outline of it.
import { post } from "./parts.js";
import { placeOn, stageOf } from "./stage.js";
import { tracer } from "./trace.js";

const WORDS = {
  freehand: "Drag along it on the plan.",
  corners: "Click its corners; the first one again ends it.",
  rectangle: "Drag from corner to corner.",
  ellipse: "Drag from corner to corner of its box.",
  follow: "Click at its turns; the way between is found.",
};
const NEAR_PX = 12;
const SNAP_PX = 6;
const SNAPS = ["corners", "rectangle", "ellipse"];
let drew = false; // whether the click that ends this press belongs to the pencil, and chooses nothing
let drawing = null; // {tool, bar, svg, shown, places, stage, down}

function stop() {
  if (!drawing) return;
  drawing.shown.remove();
  drawing.trace?.remove();
  drawing.svg.classList.remove("drawing");
  drawing.bar.classList.remove("drawing");
  for (const button of drawing.bar.querySelectorAll("[data-step]")) button.hidden = true;
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
  bar.classList.add("drawing");
  bar.querySelector("output").textContent = WORDS[button.dataset.tool];
  drawing = { tool: button.dataset.tool, bar, svg, shown, places: [], stage: null, down: false, trace: null };
  if (drawing.tool === "follow") {
    const stage = stageOf(svg.firstElementChild);
    const tell = (words) => (bar.querySelector("output").textContent = words);
    drawing.stage = stage;
    drawing.trace = tracer(svg, button.dataset.edges, tell, (place) => onScreen(place, stage));
  }
  showSteps();
  svg.scrollIntoView({ block: "nearest" });
}

function onScreen({ x, y }, stage = drawing.stage) {
  return [stage.left + x * stage.scale, stage.bottom - y * stage.scale];
}

// On to a line of the base or another form that is near, unless Alt is held.
function snapped(place, event) {
  if (event.altKey) return place;
  const lines = JSON.parse(drawing.bar.dataset.snaps);
  const on = (value, all) => {
    const near = all.reduce((best, line) => (Math.abs(line - value) < Math.abs(best - value) ? line : best), Infinity);
    return Math.abs(near - value) * place.stage.scale < SNAP_PX ? near : value;
  };
  return { ...place, x: on(place.x, lines.x), y: on(place.y, lines.y) };
}

function show(last = null) {
  const boxed = drawing.tool === "rectangle" || drawing.tool === "ellipse";
  const all = last ? [...drawing.places, last] : drawing.places;
  let line = all.map((place) => onScreen(place));
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
  const { bar, tool, places } = drawing;
  const line = places.map(({ x, y }) => [Math.round(x * 10) / 10, Math.round(y * 10) / 10]);
  send(bar, { tool, points: line });
}

function send(bar, { tool, points, other }) {
  stop();
  if (points.length < 2) return;
  const kind = bar.querySelector("select").value;
  post(bar.dataset.url, { kind, tool, line: JSON.stringify(points), ...(other ? { other: "1" } : {}) });
}

// What can be done on the way, as buttons too: a phone has no keys.
function showSteps() {
  const steps = drawing.bar.querySelector(".steps");
  if (!steps) return;
  for (const button of steps.querySelectorAll("button")) {
    const forTrace = button.dataset.step === "hand" || button.dataset.step === "other";
    button.hidden = !drawing.trace && (forTrace || drawing.tool !== "corners");
    if (button.dataset.step === "other") button.hidden = !drawing.trace?.closed;
  }
}

async function step(what) {
  const { trace, places } = drawing;
  if (what === "back") {
    if (trace) trace.back();
    else {
      places.pop();
      if (drawing.stage) show();
    }
  } else if (what === "hand") trace?.hand();
  else if (what === "other") await trace?.swap();
  else if (!trace) finish();
  else if (trace.clicks.length > 1) {
    const { bar } = drawing;
    const path = "path" in bar.querySelector("select").selectedOptions[0].dataset;
    if (path || (await trace.close())) {
      if (drawing?.trace === trace) send(bar, { ...trace.line(), other: trace.other });
      return;
    }
  }
  if (drawing) showSteps();
}

document.addEventListener("click", (event) => {
  const button = event.target.closest?.(".pencil [data-tool]");
  if (button) take(button);
  const way = event.target.closest?.(".pencil [data-step]");
  if (way && drawing) step(way.dataset.step);
});

// Before the handles of the drawing hear of it.
const early = { capture: true };
document.addEventListener(
  "pointerdown",
  (event) => {
    drew = false;
    if (!drawing || !drawing.svg.contains(event.target) || event.button) return;
    const here = placeOn(drawing.svg, event);
    if (!here) return;
    const place = SNAPS.includes(drawing.tool) ? snapped(here, event) : here;
    event.preventDefault();
    event.stopPropagation();
    drew = true;
    drawing.stage = place.stage;
    if (drawing.trace) {
      const [first] = drawing.trace.clicks;
      const apart = first ? Math.hypot(onScreen(place)[0] - onScreen(first)[0], onScreen(place)[1] - onScreen(first)[1]) : Infinity;
      if (drawing.trace.clicks.length > 2 && apart < NEAR_PX) step("close");
      else drawing.trace.click(place);
      return;
    }
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
    const here = placeOn(drawing.svg, event);
    if (!here) return drawing.trace?.away();
    const place = SNAPS.includes(drawing.tool) ? snapped(here, event) : here;
    if (drawing.trace) drawing.trace.hover(place);
    else if (drawing.tool === "corners") show(place);
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
  if (!drawing || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Escape") stop();
  else if (event.target.closest?.("input, textarea, select")) return;
  else if (drawing.tool === "corners" || drawing.trace) {
    const what = { Enter: "close", Backspace: "back", h: "hand", x: "other" }[event.key];
    if (!what || (event.key === "Enter" && !drawing.trace && !drawing.places.length)) return;
    event.preventDefault();
    event.stopPropagation();
    step(what);
  }
}, early);
