// The plan's surface at a stage of the build, wet or dry: the picture of that stage, and the waters poured by then.

function show() {
  const slider = document.getElementById("surface-stage");
  const image = document.getElementById("plan-image");
  const stages = JSON.parse(slider.dataset.stages);
  const [stage, words] = stages[Number(slider.value)];
  const wet = document.getElementById("surface-wet").checked ? "&wet=1" : "";
  document.getElementById("surface-words").textContent = words;
  slider.setAttribute("aria-valuetext", words);
  image.setAttribute("href", `${slider.dataset.url}&stage=${encodeURIComponent(stage)}${wet}`);
  const reached = stages.slice(0, Number(slider.value) + 1).map(([id]) => id);
  for (const water of document.querySelectorAll("#water-plan [data-lift]")) {
    water.toggleAttribute("hidden", !reached.includes(water.dataset.lift));
    water.setAttribute("visibility", water.hasAttribute("hidden") ? "hidden" : "visible");
  }
}

document.addEventListener("input", (event) => {
  if (event.target.id === "surface-stage" || event.target.id === "surface-wet") show();
});
