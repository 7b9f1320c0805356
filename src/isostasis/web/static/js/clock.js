// A post on the clock is dragged to another time; or moved with the arrow keys by a quarter of an hour, Enter drops it,
// Escape puts it back. The server answers with what follows from it, or why it cannot be.
import { post } from "./parts.js";

const QUARTER = 15;
let held = null;

function hold(element, x) {
  const svg = element.closest("svg.strata");
  return { element, svg, from: x, minutes: 0, hour: Number(svg.dataset.hour), moved: false };
}

function show() {
  const px = (held.minutes / 60) * held.hour;
  held.element.setAttribute("transform", `translate(${px.toFixed(1)} 0)`);
  held.element.classList.add("held");
  let label = held.svg.querySelector("#held-time");
  if (!label) {
    label = document.createElementNS("http://www.w3.org/2000/svg", "text");
    label.id = "held-time";
    held.svg.append(label);
  }
  const at = when();
  label.textContent = at.toLocaleString([], { weekday: "short", hour: "2-digit", minute: "2-digit", timeZone: undefined });
  label.setAttribute("x", Number(held.element.dataset.x) + px + 6);
  label.setAttribute("y", Number(held.element.querySelector("line").getAttribute("y1")) - 14);
}

function when() {
  return new Date(new Date(held.element.dataset.at).getTime() + held.minutes * 60000);
}

function drop() {
  const { element, svg, minutes } = held;
  const at = when();
  put();
  if (minutes) post(svg.dataset.url, { step: element.dataset.step, at: at.toISOString().replace(".000Z", "+00:00") });
}

function put() {
  held.element.removeAttribute("transform");
  held.element.classList.remove("held");
  held.svg.querySelector("#held-time")?.remove();
  held = null;
}

const pointX = (svg, event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).x;

// Posts of one evening overlap: the one whose line is nearest is meant.
function nearest(event) {
  const hit = event.target.closest?.(".post");
  if (!hit) return null;
  const svg = hit.closest("svg.strata");
  const x = pointX(svg, event);
  const line = (post) => Number(post.querySelector("line").getAttribute("x1"));
  const lane = hit.querySelector("line").getAttribute("y2");
  const beside = [...svg.querySelectorAll(".post")].filter((post) => post.querySelector("line").getAttribute("y2") === lane);
  return beside.reduce((best, post) => (Math.abs(line(post) - x) < Math.abs(line(best) - x) ? post : best), hit);
}

document.addEventListener("click", (event) => {
  const post = event.isTrusted && event.clientX ? nearest(event) : null;
  if (!post || post === event.target.closest(".post") || event.defaultPrevented) return;
  event.preventDefault();
  window.location.assign(post.href.baseVal);
});

document.addEventListener("pointerdown", (event) => {
  const element = nearest(event);
  if (!element?.dataset.step || event.button) return;
  held = hold(element, pointX(element.closest("svg"), event));
});
document.addEventListener("pointermove", (event) => {
  if (!held || held.from === null) return;
  const minutes = Math.round((((pointX(held.svg, event) - held.from) / held.hour) * 60) / QUARTER) * QUARTER;
  if (!held.moved && Math.abs(pointX(held.svg, event) - held.from) < 3) return;
  held.moved = true;
  held.minutes = minutes;
  show();
});
document.addEventListener("pointerup", () => {
  if (!held || held.from === null) return;
  if (!held.moved) {
    held = null;
    return;
  }
  // The click that may end a drag follows no link.
  const still = (event) => event.preventDefault();
  document.addEventListener("click", still, { capture: true });
  setTimeout(() => document.removeEventListener("click", still, { capture: true }));
  drop();
});
document.addEventListener("pointercancel", () => {
  if (held) put();
});
document.addEventListener("focusout", () => {
  if (held?.from === null) put();
});
// Nothing changes under a post that is held: an answer that came now would take it out of the hand. What polls asks
// again by itself once it is let go.
for (const name of ["htmx:beforeRequest", "htmx:beforeOnLoad"]) {
  document.addEventListener(name, (event) => {
    if (held) event.preventDefault();
  });
}
document.addEventListener("dragstart", (event) => {
  if (event.target.closest?.(".post")) event.preventDefault();
});
document.addEventListener("keydown", (event) => {
  const element = event.target.closest?.(".post[data-step]");
  if (!element) return;
  if (event.key === "ArrowLeft" || event.key === "ArrowRight") {
    event.preventDefault();
    event.stopPropagation();
    held ??= hold(element, null);
    held.minutes += (event.key === "ArrowRight" ? QUARTER : -QUARTER) * (event.shiftKey ? 4 : 1);
    show();
  } else if (event.key === "Enter" && held) {
    event.preventDefault();
    drop();
  } else if (event.key === "Escape" && held) {
    put();
  }
}, true);
