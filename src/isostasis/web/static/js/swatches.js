// Boxes over the photo of a scrap: dragged, sized by their corner, or moved with arrows; and sliders that fill scores in.
import { pointIn } from "./stage.js";

const STEP = 0.005;
const LEAST = 0.02;
let held = null;

function shares(svg, group) {
  const { width, height } = svg.viewBox.baseVal;
  const rect = group.querySelector("rect");
  const [x, y, wide, high] = ["x", "y", "width", "height"].map((name) => Number(rect.getAttribute(name)));
  return [x / width, y / height, wide / width, high / height];
}

function place(svg, group, [west, north, wide, high]) {
  const { width, height } = svg.viewBox.baseVal;
  const w = Math.min(Math.max(wide, LEAST), 1);
  const h = Math.min(Math.max(high, LEAST), 1);
  const x = Math.min(Math.max(west, 0), 1 - w);
  const y = Math.min(Math.max(north, 0), 1 - h);
  const rect = group.querySelector("rect");
  Object.entries({ x: x * width, y: y * height, width: w * width, height: h * height }).forEach(([name, value]) =>
    rect.setAttribute(name, value.toFixed(1)),
  );
  const text = group.querySelector("text");
  text.setAttribute("x", (x * width + width * 0.008).toFixed(1));
  text.setAttribute("y", (y * height + width * 0.03).toFixed(1));
  const corner = group.querySelector("circle");
  corner.setAttribute("cx", ((x + w) * width).toFixed(1));
  corner.setAttribute("cy", ((y + h) * height).toFixed(1));
  group.setAttribute("aria-valuenow", Math.round(x * 100));
  group.setAttribute("aria-valuetext", `${Math.round(x * 100)} % from the left, ${Math.round(y * 100)} % from the top`);
  const field = document.querySelector(`input[name="box-${group.dataset.box}"]`);
  if (field) field.value = [x, y, w, h].map((one) => one.toFixed(4)).join(" ");
}

document.addEventListener("pointerdown", (event) => {
  const group = event.target.closest?.("[data-box]");
  if (!group || event.button) return;
  const svg = group.closest("svg");
  held = { svg, group, sizing: event.target.matches("circle"), from: pointIn(svg, event), was: shares(svg, group) };
  group.setPointerCapture(event.pointerId);
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const { svg, group, sizing, from, was } = held;
  const at = pointIn(svg, event);
  const dx = (at.x - from.x) / svg.viewBox.baseVal.width;
  const dy = (at.y - from.y) / svg.viewBox.baseVal.height;
  const [x, y, w, h] = was;
  place(svg, group, sizing ? [x, y, w + dx, h + dy] : [x + dx, y + dy, w, h]);
});
for (const over of ["pointerup", "pointercancel"]) {
  document.addEventListener(over, () => {
    held = null;
  });
}
document.addEventListener("keydown", (event) => {
  const group = event.target.closest?.("[data-box]");
  const [dx, dy] = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[event.key] ?? [0, 0];
  if (!group || (!dx && !dy)) return;
  const svg = group.closest("svg");
  const [x, y, w, h] = shares(svg, group);
  place(svg, group, event.shiftKey ? [x, y, w + dx, h + dy] : [x + dx, y + dy, w, h]);
  event.preventDefault();
});

document.addEventListener("input", (event) => {
  const slider = event.target.closest?.("input[data-scores]");
  if (slider) slider.form.elements[slider.dataset.scores].value = slider.value;
});
