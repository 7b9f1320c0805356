// Dips of a measured hollow: a tap on the plan opens a field where it was tapped; Enter keeps it.
import { pointIn, placeOn } from "./stage.js";

const STILL_PX = 5;
let pressed = null;

function open(svg, event, { x, y }) {
  const form = document.querySelector(".dip-form");
  form.elements.x.value = x.toFixed(1);
  form.elements.y.value = y.toFixed(1);
  form.classList.add("open");
  const page = form.offsetParent.getBoundingClientRect();
  const wide = Math.max(page.width - form.offsetWidth - 8, 0);
  form.style.left = `${Math.min(Math.max(event.clientX - page.left - 40, 8), wide)}px`;
  form.style.top = `${event.clientY - page.top + 12}px`;
  form.elements.deep.value = "";
  form.elements.deep.focus({ preventScroll: true });
}

document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("svg.panels");
  pressed = null;
  if (!svg || !svg.querySelector("#dips") || event.button || svg.classList.contains("drawing")) return;
  if (event.target.closest("circle[data-drag], .form-handle, .cut-line, a")) return;
  pressed = { svg, at: pointIn(svg, event) };
});
document.addEventListener("pointerup", (event) => {
  if (!pressed) return;
  const { svg, at } = pressed;
  pressed = null;
  const now = pointIn(svg, event);
  const place = placeOn(svg, event);
  if (place && Math.hypot(now.x - at.x, now.y - at.y) < STILL_PX) open(svg, event, place);
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") document.querySelector(".dip-form.open")?.classList.remove("open");
});
