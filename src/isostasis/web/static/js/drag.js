// Dragging on plan and cut: the cut line, the water level, a form, its corners, its height. By pointer or by arrow keys.
// The handle moves at once; what follows from it is asked of the server, and saved when it is let go.
import { latestOnly, post, saving, swapParts } from "./parts.js";
import { placeOn, pointIn, stageOf } from "./stage.js";

const previews = latestOnly(swapParts);
let held = null; // the handle that is being moved: {kind, element, svg, ...}

const clamp = (value, low, high) => Math.min(Math.max(value, low), high);

// Where a dragged place goes: on to a line of the other forms or the base that is near, else to the grid; with Alt, anywhere.
const NEAR_PX = 7;
function lineNear(value, lines, stage) {
  const nearest = lines.reduce((best, line) => (Math.abs(line - value) < Math.abs(best - value) ? line : best), Infinity);
  return Math.abs(nearest - value) * stage.scale < NEAR_PX ? nearest : null;
}

function snapped(value, lines, stage, free) {
  if (free) return Math.round(value * 10) / 10;
  return lineNear(value, lines, stage) ?? Math.round(value / stage.cell) * stage.cell;
}

function significant(value) {
  return String(Number(value.toPrecision(3)));
}

// Each kind of handle: where the pointer puts it, how it shows, and what letting go does.
const kinds = {
  cut: {
    step: 5,
    value: (h) => Number(h.element.getAttribute("aria-valuenow")),
    at: (h, point) => (h.stage.bottom - point.y) / h.stage.scale,
    range: (h) => [0, h.stage.depth],
    move(h, y) {
      h.element.setAttribute("aria-valuenow", y.toFixed(1));
      h.element.setAttribute("transform", `translate(0 ${(h.stage.bottom - y * h.stage.scale).toFixed(2)})`);
      const live = document.getElementById("level")?.dataset.lift ?? "";
      previews.ask(`${h.element.dataset.url}&y=${y.toFixed(1)}&live=${live}`);
    },
    release() {},
  },
  level: {
    step: 0.2,
    value: (h) => Number(h.element.getAttribute("aria-valuenow")),
    at: (h, point) => (h.stage.zero - point.y) / h.stage.rise,
    range: (h) => [Number(h.element.getAttribute("aria-valuemin")) + 0.1, Number(h.element.getAttribute("aria-valuemax"))],
    move(h, level) {
      const text = h.element.querySelector("text");
      h.element.setAttribute("aria-valuenow", level.toFixed(2));
      h.element.setAttribute("transform", `translate(0 ${(h.stage.zero - level * h.stage.rise).toFixed(2)})`);
      text.textContent = text.dataset.unit === "in" ? `level ${(level / 25.4).toFixed(2)} in` : `level ${significant(level)} mm`;
      const cut = document.getElementById("cut-line").getAttribute("aria-valuenow");
      previews.ask(`${h.element.dataset.url}?lift=${h.element.dataset.lift}&cut=${cut}&level=${level.toFixed(2)}`);
    },
    release(h) {
      const level = Number(h.element.getAttribute("aria-valuenow"));
      post(h.element.dataset.save, { level: `${level} mm` });
    },
  },
  height: {
    step: 0.5,
    value: (h) => Number(h.element.getAttribute("aria-valuenow")),
    at: (h, point) => Number(h.element.dataset.value) + ((h.stage.zero - point.y) / h.stage.rise - Number(h.element.dataset.z)) / Number(h.element.dataset.per),
    range: () => [0.5, 1000],
    move(h, value) {
      const { dataset } = h.element;
      const rounded = Math.round(value * 2) / 2;
      const z = Number(dataset.z) + (rounded - Number(dataset.value)) * Number(dataset.per);
      const text = h.element.querySelector("text");
      h.element.setAttribute("aria-valuenow", rounded);
      h.element.setAttribute("transform", `translate(0 ${(h.stage.zero - z * h.stage.rise).toFixed(2)})`);
      text.textContent = `${text.dataset.label} ${text.dataset.unit === "in" ? `${(rounded / 25.4).toFixed(2)} in` : `${rounded} mm`}`;
    },
    release(h) {
      const { dataset } = h.element;
      post(dataset.url, { field: dataset.field, value: `${h.element.getAttribute("aria-valuenow")} mm` });
    },
  },
};

// What turns and scales all that is chosen, about its middle: the drawing is turned at once, the server does the same.
const chosenShapes = (svg) => [...svg.querySelectorAll(".form-shape.chosen, .form-shape.also")];
function shapeChosen(h, how, values) {
  const { dataset } = h.element.closest(".grips") ?? h.stage.svg.querySelector(".grips");
  post(dataset.url, { how, chosen: JSON.parse(dataset.forms), ...values });
}
const middleOf = (h) => {
  const { dataset } = h.element.closest(".grips");
  return { x: Number(dataset.cx), y: Number(dataset.cy) };
};
function grip(how, { step, range, at, transform, send }) {
  return {
    step,
    range: () => range,
    value: (h) => Number(h.element.getAttribute("aria-valuenow")),
    at,
    move(h, value) {
      h.element.setAttribute("aria-valuenow", value.toFixed(1));
      for (const one of chosenShapes(h.stage.svg)) one.setAttribute("transform", transform(value, middleOf(h)));
    },
    release(h) {
      shapeChosen(h, how, { by: send(Number(h.element.getAttribute("aria-valuenow"))) });
    },
  };
}
kinds.turn = grip("turn", {
  step: 1,
  range: [-180, 180],
  at(h, point) {
    const { x, y } = middleOf(h);
    const turned = Math.atan2(point.y - y, point.x - x) - Math.atan2(h.from.y - y, h.from.x - x);
    const degrees = (-turned * 180) / Math.PI;
    return Math.round(degrees > 180 ? degrees - 360 : degrees < -180 ? degrees + 360 : degrees);
  },
  transform: (degrees, { x, y }) => `rotate(${-degrees} ${x} ${y})`,
  send: (degrees) => degrees,
});
kinds.scale = grip("scale", {
  step: 2,
  range: [10, 500],
  at(h, point) {
    const { x, y } = middleOf(h);
    return Math.round((100 * Math.hypot(point.x - x, point.y - y)) / Math.max(Math.hypot(h.from.x - x, h.from.y - y), 1));
  },
  transform: (percent, { x, y }) => `translate(${x} ${y}) scale(${percent / 100}) translate(${-x} ${-y})`,
  send: (percent) => percent / 100,
});

// The points of the form that is chosen, and how they show.
const shape = {
  begin(h) {
    h.group = h.element.closest("g[data-form]");
    h.dots = [...h.group.querySelectorAll("circle[data-x]")];
    h.points = h.dots.map((one) => [Number(one.dataset.x), Number(one.dataset.y)]);
    h.start = h.points.map((point) => [...point]);
    h.origin = h.points[0];
    h.snaps = JSON.parse(h.group.dataset.snaps);
    h.index = Number(h.element.dataset.index);
  },
  show(h) {
    const { stage } = h;
    const onScreen = ([a, b]) => [stage.left + a * stage.scale, stage.bottom - b * stage.scale];
    h.dots.forEach((dot, index) => {
      const [cx, cy] = onScreen(h.points[index]);
      [dot.dataset.x, dot.dataset.y] = h.points[index];
      dot.setAttribute("cx", cx);
      dot.setAttribute("cy", cy);
    });
    const line = h.points.map((one) => onScreen(one).join(",")).join(" ");
    for (const drawn of h.group.querySelectorAll("polygon, polyline")) drawn.setAttribute("points", line);
  },
  release(h) {
    if (h.kind === "form" && h.stage.svg.querySelector(".form-shape.also")) {
      const [right, up] = [0, 1].map((axis) => h.points[0][axis] - h.origin[axis]);
      shapeChosen(h, "shift", { by: right, up });
    } else post(h.group.dataset.url, { line: JSON.stringify(h.points) });
  },
};

// A corner goes where the pointer is; a whole form goes along, kept on the base, its first edge that is near a line on it.
function moveCorner(h, x, y, free) {
  const { stage } = h;
  h.points[h.index] = [
    clamp(snapped(x, h.snaps.x, stage, free), 0, stage.width),
    clamp(snapped(y, h.snaps.y, stage, free), 0, stage.depth),
  ];
  shape.show(h);
}

function moveForm(h, right, up, free) {
  const { stage } = h;
  const along = (axis, by, lines, most) => {
    const places = h.start.map((point) => point[axis]);
    const [low, high] = [Math.min(...places), Math.max(...places)];
    if (free) return clamp(by, -low, most - high);
    const onLines = [low, (low + high) / 2, high].map((edge) => [edge, lineNear(edge + by, lines, stage)]).filter(([, line]) => line !== null);
    const offs = onLines.length ? onLines.map(([edge, line]) => line - edge) : [snapped(low + by, [], stage, false) - low];
    return clamp(offs.reduce((best, one) => (Math.abs(one - by) < Math.abs(best - by) ? one : best)), -low, most - high);
  };
  const dx = along(0, right, h.snaps.x, stage.width);
  const dy = along(1, up, h.snaps.y, stage.depth);
  h.points = h.start.map(([x, y]) => [Math.round((x + dx) * 1000) / 1000, Math.round((y + dy) * 1000) / 1000]);
  shape.show(h);
  const moved = [h.points[0][0] - h.origin[0], h.origin[1] - h.points[0][1]].map((one) => one * stage.scale);
  for (const one of stage.svg.querySelectorAll(".form-shape.also")) one.setAttribute("transform", `translate(${moved.join(" ")})`);
}

// A click on an edge adds a corner there; a double click on a corner, or Delete, takes it away.
const STILL_PX = 3;
const EDGE_PX = 8;
function addCorner(h) {
  const at = [(h.from.x - h.stage.left) / h.stage.scale, (h.stage.bottom - h.from.y) / h.stage.scale];
  const count = h.group.classList.contains("line") ? h.points.length - 1 : h.points.length;
  const offs = [...Array(count).keys()].map((index) => {
    const [a, b] = [h.points[index], h.points[(index + 1) % h.points.length]];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const share = clamp(((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1), 0, 1);
    return Math.hypot(a[0] + share * dx - at[0], a[1] + share * dy - at[1]);
  });
  const nearest = offs.indexOf(Math.min(...offs));
  if (offs[nearest] * h.stage.scale > EDGE_PX) return;
  h.points.splice(nearest + 1, 0, at.map((one) => Math.round(one * 10) / 10));
  shape.release(h);
}
// Shift and a click on another form choose it too.
document.addEventListener(
  "click",
  (event) => {
    const link = event.target.closest?.("a[data-form-link]");
    const here = new URL(window.location.href);
    if (!link || !event.shiftKey || !here.searchParams.get("form")) return;
    event.preventDefault();
    event.stopPropagation();
    here.searchParams.append("also", link.dataset.formLink);
    window.location.assign(here);
  },
  { capture: true },
);

function takeCornerAway(element) {
  const h = take(element);
  if (h.points.length <= (h.group.classList.contains("line") ? 2 : 3)) return;
  h.points.splice(h.index, 1);
  shape.release(h);
}
document.addEventListener("dblclick", (event) => {
  const corner = event.target.closest?.("circle[data-drag=corner]");
  if (corner) takeCornerAway(corner);
});

const onShape = (kind) => kind === "corner" || kind === "form";

function take(element) {
  const h = { element, kind: element.dataset.drag, stage: stageOf(element) };
  if (onShape(h.kind)) shape.begin(h);
  return h;
}

document.addEventListener("pointerdown", (event) => {
  const element = event.target.closest?.("[data-drag]");
  if (!element || event.button) return;
  held = take(element);
  held.moved = false;
  held.from = pointIn(held.stage.svg, event);
  element.focus({ preventScroll: true });
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const point = pointIn(held.stage.svg, event);
  if (!held.moved && held.kind === "form" && Math.hypot(point.x - held.from.x, point.y - held.from.y) < STILL_PX) return;
  held.moved = true;
  if (held.kind === "corner") {
    moveCorner(held, (point.x - held.stage.left) / held.stage.scale, (held.stage.bottom - point.y) / held.stage.scale, event.altKey);
  } else if (held.kind === "form") {
    moveForm(held, (point.x - held.from.x) / held.stage.scale, (held.from.y - point.y) / held.stage.scale, event.altKey);
  } else {
    const kind = kinds[held.kind];
    kind.move(held, clamp(kind.at(held, point), ...kind.range(held)));
  }
});

function letGo() {
  const h = held;
  held = null;
  if (h && !h.moved && h.kind === "form" && !document.getElementById("dips")) addCorner(h); // there a tap is a dip
  if (!h || !h.moved) return;
  if (onShape(h.kind)) shape.release(h);
  else kinds[h.kind].release(h);
}
document.addEventListener("pointerup", letGo);
document.addEventListener("pointercancel", letGo);

// Arrow keys: a step each press, ten with Shift; saved when the keys have rested and what they moved before is saved. Where
// its page comes meanwhile, they are pressed again upon that.
let resting = null;
let unsaved = null; // what they have moved: {element, h, presses}

function settle() {
  clearTimeout(resting);
  if (!unsaved) return;
  const { h } = unsaved;
  unsaved = null;
  (onShape(h.kind) ? shape : kinds[h.kind]).release(h);
}

function rest() {
  if (saving()) resting = setTimeout(rest, 100);
  else settle();
}

function nudge(element, arrow, times) {
  const { h, presses } = unsaved?.element === element ? unsaved : { h: take(element), presses: [] };
  if (h.kind === "corner") {
    moveCorner(h, h.points[h.index][0] + arrow[0] * times, h.points[h.index][1] + arrow[1] * times, true);
  } else if (h.kind === "form") {
    h.start = h.points.map((point) => [...point]);
    moveForm(h, arrow[0] * times, arrow[1] * times, true);
  } else {
    const kind = kinds[h.kind];
    kind.move(h, clamp(kind.value(h) + (arrow[0] + arrow[1]) * kind.step * times, ...kind.range(h)));
  }
  unsaved = { element, h, presses: [...presses, [arrow, times]] };
  clearTimeout(resting);
  resting = setTimeout(rest, 700);
}

document.addEventListener("keydown", (event) => {
  const element = event.target.closest?.("[data-drag]");
  const arrows = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowRight: [1, 0], ArrowLeft: [-1, 0] };
  const arrow = arrows[event.key];
  if (element?.dataset.drag === "corner" && event.key === "Delete") takeCornerAway(element);
  if (!element || !arrow) return;
  event.preventDefault();
  nudge(element, arrow, event.shiftKey ? 10 : 1);
});
document.addEventListener("focusout", ({ target }) => {
  queueMicrotask(() => { // a page that comes anew takes the focus away too
    if (unsaved?.element === target && target.isConnected) settle();
  });
});
document.addEventListener("htmx:afterSwap", () => {
  if (!unsaved || document.contains(unsaved.element)) return;
  const { element, presses } = unsaved;
  clearTimeout(resting);
  unsaved = null;
  const again = document.getElementById(element.id);
  if (again) for (const one of presses) nudge(again, ...one);
});

// Looking closer: the wheel zooms about the pointer, dragging the bare plan moves along, a click tries a place.
function lookAt(svg, zoom, x, y) {
  post(svg.dataset.look, { zoom, x: x.toFixed(1), y: y.toFixed(1), here: window.location.pathname + window.location.search });
}

let looking = null;
document.addEventListener(
  "wheel",
  (event) => {
    const svg = event.target.closest?.("svg.panels[data-look]");
    const place = svg && placeOn(svg, event);
    if (!place) return;
    event.preventDefault();
    const zoom = Number(svg.dataset.zoom);
    looking ??= { svg, zoom, place };
    looking.zoom = clamp(looking.zoom * (event.deltaY < 0 ? 1.5 : 1 / 1.5), 1, 32);
    clearTimeout(looking.timer);
    looking.timer = setTimeout(() => {
      // The place under the pointer stays under it.
      const { stage, x, y } = looking.place;
      const [left, top, width, height] = svg.dataset.window.split(" ").map(Number);
      const middle = { x: (left + width / 2 - stage.left) / stage.scale, y: (stage.bottom - top - height / 2) / stage.scale };
      const share = zoom / looking.zoom;
      lookAt(svg, looking.zoom, x + (middle.x - x) * share, y + (middle.y - y) * share);
      looking = null;
    }, 120);
  },
  { passive: false },
);

let grabbed = null;
document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("svg.panels[data-look]");
  if (!svg || event.button || event.target.closest("[data-drag], a")) return;
  const place = placeOn(svg, event);
  if (place) grabbed = { svg, place };
});
document.addEventListener("pointerup", (event) => {
  const from = grabbed;
  grabbed = null;
  const to = from && placeOn(from.svg, event);
  if (!to) return;
  const right = to.x - from.place.x;
  const up = to.y - from.place.y;
  const zoom = Number(from.svg.dataset.zoom);
  const trying = document.getElementById("place-here");
  if (Math.hypot(right, up) * from.place.stage.scale > 6 && zoom > 1) {
    const [left, top, width, height] = from.svg.dataset.window.split(" ").map(Number);
    const { stage } = from.place;
    lookAt(from.svg, zoom, (left + width / 2 - stage.left) / stage.scale - right, (stage.bottom - top - height / 2) / stage.scale - up);
  } else if (trying) {
    const url = new URL(trying.dataset.placeUrl, window.location.href);
    url.searchParams.set("x", to.x.toFixed(1));
    url.searchParams.set("y", to.y.toFixed(1));
    window.location.assign(url);
  }
});
