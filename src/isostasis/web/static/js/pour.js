// On Pour: the slider fills the hollow little by little, and the pointer sounds how deep it is.
import { latestOnly, swapParts } from "./parts.js";

const previews = latestOnly(swapParts);

document.addEventListener("input", (event) => {
  if (event.target.id !== "so-far") return;
  const cut = document.getElementById("cut-line").getAttribute("aria-valuenow");
  previews.ask(`${event.target.dataset.url}&share=${Number(event.target.value) / 100}&cut=${cut}`);
});

let sounded = { url: null, depths: null };

async function soundings(url) {
  if (sounded.url !== url) {
    sounded = { url, depths: null };
    sounded.depths = await (await fetch(url)).json();
  }
  return sounded.url === url ? sounded.depths : null;
}

document.addEventListener("pointermove", async (event) => {
  const slider = document.getElementById("so-far");
  const mark = document.getElementById("sounding");
  if (!slider || !mark) return;
  const svg = event.target.closest?.("svg.panels");
  const depths = svg && (await soundings(slider.dataset.depths));
  if (!depths || !mark.isConnected) return mark.setAttribute("visibility", "hidden");
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const x = (point.x - Number(svg.dataset.left)) / Number(svg.dataset.scale) - depths.west_mm;
  const y = (Number(svg.dataset.planBottom) - point.y) / Number(svg.dataset.scale) - depths.south_mm;
  const column = Math.floor(x / depths.step_mm);
  const tenths = column >= 0 && column < depths.columns && y >= 0 ? depths.tenths[Math.floor(y / depths.step_mm) * depths.columns + column] : 0;
  if (!tenths) return mark.setAttribute("visibility", "hidden");
  const text = slider.dataset.unit === "in" ? `${(tenths / 254).toFixed(2)} in` : `${(tenths / 10).toFixed(1)} mm`;
  mark.querySelector("text").textContent = text;
  mark.setAttribute("transform", `translate(${point.x} ${point.y})`);
  mark.setAttribute("visibility", "visible");
});
