// Keys of Find, on its page and over others: down from the box into what was found, up and down through it, back.
document.addEventListener("keydown", (event) => {
  const box = event.target.closest?.(".find-box");
  const over = box?.closest("dialog");
  if (over && event.key === "Escape") {
    event.preventDefault(); // which would empty it: what was asked stands there to be gone on with
    over.close();
  }
  if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
  const hits = [...document.querySelectorAll(".hits a")];
  const at = hits.indexOf(event.target);
  if (!hits.length || (at < 0 && !box)) return;
  const to = at + (event.key === "ArrowDown" ? 1 : -1);
  event.preventDefault();
  (to < 0 ? document.querySelector(".find-box") : hits[Math.min(to, hits.length - 1)]).focus();
});

// Other words take the place of the old ones.
document.addEventListener("focusin", (event) => event.target.matches(".find-box") && event.target.select());

// What is found may stand on the page below.
document.addEventListener("click", (event) => event.target.closest(".hits a")?.closest("dialog")?.close());
