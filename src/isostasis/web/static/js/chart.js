// A chart over hours is read with the pointer, or with the arrow keys once it has the focus.

function read(figure, x) {
  const readings = JSON.parse(figure.dataset.readings);
  const place = readings.reduce((best, [at], index) => (Math.abs(at - x) < Math.abs(readings[best][0] - x) ? index : best), 0);
  const hair = figure.querySelector(".hair");
  hair.setAttribute("visibility", "visible");
  for (const end of ["x1", "x2"]) hair.setAttribute(end, readings[place][0]);
  figure.querySelector(".reads").textContent = readings[place][1];
  figure.dataset.at = place;
}

document.addEventListener("pointermove", (event) => {
  const figure = event.target.closest?.("figure.chart");
  if (!figure) return;
  const svg = figure.querySelector("svg");
  read(figure, new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).x);
});

document.addEventListener("keydown", (event) => {
  const figure = event.target.closest?.("figure.chart");
  if (!figure || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
  event.preventDefault();
  const readings = JSON.parse(figure.dataset.readings);
  const place = Number(figure.dataset.at ?? 0) + (event.key === "ArrowRight" ? 1 : -1);
  read(figure, readings[Math.min(Math.max(place, 0), readings.length - 1)][0]);
});
