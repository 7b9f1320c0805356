// Dragging on plan and cut: the cut line, the water level, the corners of a form. By pointer or by arrow keys.
// The handle moves at once; what follows from it is asked of the server, and saved when it is let go.
import { latestOnly, post, swapParts } from "./parts.js";

const previews = latestOnly(swapParts);
let held = null; // the handle that is being moved: {kind, element, svg, ...}

function stageOf(element) {
  const svg = element.closest("svg.panels");
  const number = (name) => Number(svg.dataset[name]);
  return {
    svg,
    scale: number("scale"),
    left: number("left"),
    bottom: number("planBottom"),
    zero: number("zero"),
    rise: number("rise"),
    width: number("width"),
    depth: number("depth"),
    base: svg.dataset.base,
  };
}

function pointIn(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

const clamp = (value, low, high) => Math.min(Math.max(value, low), high);

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
      post(h.element.dataset.save, { base: h.stage.base, level: `${level} mm` });
    },
  },
};

const corner = {
  begin(h) {
    h.group = h.element.closest("g[data-form]");
    h.points = [...h.group.querySelectorAll("[data-drag=corner]")].map((one) => [Number(one.dataset.x), Number(one.dataset.y)]);
    h.index = Number(h.element.dataset.index);
  },
  move(h, x, y) {
    const { stage } = h;
    const place = [Math.round(clamp(x, 0, stage.width)), Math.round(clamp(y, 0, stage.depth))];
    h.points[h.index] = place;
    h.element.dataset.x = place[0];
    h.element.dataset.y = place[1];
    const onScreen = ([a, b]) => [stage.left + a * stage.scale, stage.bottom - b * stage.scale];
    const [cx, cy] = onScreen(place);
    h.element.setAttribute("cx", cx);
    h.element.setAttribute("cy", cy);
    h.group.querySelector("polygon").setAttribute("points", h.points.map((one) => onScreen(one).join(",")).join(" "));
  },
  release(h) {
    post(h.group.dataset.url, { base: h.stage.base, outline: JSON.stringify(h.points) });
  },
};

function take(element) {
  const h = { element, kind: element.dataset.drag, stage: stageOf(element) };
  if (h.kind === "corner") corner.begin(h);
  return h;
}

document.addEventListener("pointerdown", (event) => {
  const element = event.target.closest?.("[data-drag]");
  if (!element || event.button) return;
  held = take(element);
  held.moved = false;
  element.focus({ preventScroll: true });
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const point = pointIn(held.stage.svg, event);
  held.moved = true;
  if (held.kind === "corner") {
    corner.move(held, (point.x - held.stage.left) / held.stage.scale, (held.stage.bottom - point.y) / held.stage.scale);
  } else {
    const kind = kinds[held.kind];
    kind.move(held, clamp(kind.at(held, point), ...kind.range(held)));
  }
});

function letGo() {
  const h = held;
  held = null;
  if (!h || !h.moved) return;
  if (h.kind === "corner") corner.release(h);
  else kinds[h.kind].release(h);
}
document.addEventListener("pointerup", letGo);
document.addEventListener("pointercancel", letGo);

// Arrow keys: a step each press, ten with Shift; saved when the keys have rested.
let resting = null;
let unsaved = null;

function settle() {
  clearTimeout(resting);
  if (!unsaved) return;
  const { element, h } = unsaved;
  unsaved = null;
  if (document.contains(element)) (h.kind === "corner" ? corner : kinds[h.kind]).release(h);
}

document.addEventListener("keydown", (event) => {
  const element = event.target.closest?.("[data-drag]");
  const arrows = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowRight: [1, 0], ArrowLeft: [-1, 0] };
  const arrow = arrows[event.key];
  if (!element || !arrow) return;
  event.preventDefault();
  const h = unsaved?.element === element ? unsaved.h : take(element);
  const times = event.shiftKey ? 10 : 1;
  if (h.kind === "corner") {
    corner.move(h, h.points[h.index][0] + arrow[0] * times, h.points[h.index][1] + arrow[1] * times);
  } else {
    const kind = kinds[h.kind];
    kind.move(h, clamp(kind.value(h) + (arrow[0] + arrow[1]) * kind.step * times, ...kind.range(h)));
  }
  unsaved = { element, h };
  clearTimeout(resting);
  resting = setTimeout(settle, 700);
});
document.addEventListener("focusout", (event) => {
  if (unsaved && event.target === unsaved.element) settle();
});
