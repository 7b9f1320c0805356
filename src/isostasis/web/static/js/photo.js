// The corners of the board on its photo: dragged, or moved by arrow keys; a glass shows the spot.
import { loupe } from "./loupe.js";

let held = null;

const clamp = (value, low, high) => Math.min(Math.max(value, low), high);
const sheet = () => document.getElementById("corners");
const form = () => document.querySelector("form.lay-photo");
const at = (handle) => JSON.parse(handle.dataset.at);

function show() {
  const svg = sheet();
  if (!svg || !form()) return;
  const by = form().elements.by.value;
  for (const name of ["corners", "distance"]) svg.querySelector(`.by-${name}`).classList.toggle("off", name !== by);
  form().querySelector(".apart").classList.toggle("off", by !== "distance");
  for (const handle of svg.querySelectorAll(".corner-handle")) handle.setAttribute("transform", `translate(${at(handle).join(" ")})`);
  const places = (name) => [...svg.querySelectorAll(`.by-${name} .corner-handle`)].map(at);
  svg.querySelector("polygon").setAttribute("points", places("corners").map((one) => one.join(",")).join(" "));
  const [, first, second] = places("distance");
  const line = svg.querySelector(".by-distance line");
  for (const [name, value] of [["x1", first[0]], ["y1", first[1]], ["x2", second[0]], ["y2", second[1]]]) line.setAttribute(name, value);
  form().elements.corners.value = JSON.stringify(places("corners"));
  form().elements.points.value = JSON.stringify(places("distance"));
}

function move(handle, x, y) {
  const { width, height } = sheet().viewBox.baseVal;
  const place = [clamp(x, -width / 4, width * 1.25), clamp(y, -height / 4, height * 1.25)];
  handle.dataset.at = JSON.stringify(place.map((one) => Math.round(one * 10) / 10));
  show();
}

function glass() {
  const svg = sheet();
  const { width, height } = svg.viewBox.baseVal;
  return loupe(svg, svg.dataset.picture, { x: 0, y: 0, width, height }, Math.max(width, height) / 11);
}

const pointer = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(sheet().getScreenCTM().inverse());

document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest?.(".corner-handle");
  if (!handle || event.button) return;
  const start = pointer(event);
  const [x, y] = at(handle);
  held = { handle, off: [x - start.x, y - start.y], glass: glass() };
  held.glass.show(x, y);
  handle.focus({ preventScroll: true });
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const place = pointer(event);
  move(held.handle, place.x + held.off[0], place.y + held.off[1]);
  held.glass.show(...at(held.handle));
});
for (const name of ["pointerup", "pointercancel"]) {
  document.addEventListener(name, () => {
    held?.glass.remove();
    held = null;
  });
}
document.addEventListener("keydown", (event) => {
  const handle = event.target.closest?.(".corner-handle");
  const arrow = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowRight: [1, 0], ArrowLeft: [-1, 0] }[event.key];
  if (!handle || !arrow) return;
  event.preventDefault();
  const [x, y] = at(handle);
  const times = event.shiftKey ? 20 : 1;
  move(handle, x + arrow[0] * times, y + arrow[1] * times);
});
document.addEventListener("change", (event) => event.target.closest?.("form.lay-photo") && show());
document.addEventListener("htmx:load", show);
document.addEventListener("DOMContentLoaded", show);
show();
