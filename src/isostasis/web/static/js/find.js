// Keys of Find: down from the box into what was found, up and down through it, back into the box.
document.addEventListener("keydown", (event) => {
  if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
  const box = document.querySelector(".find-box");
  const hits = [...document.querySelectorAll(".hits a")];
  if (!box || !hits.length) return;
  const at = hits.indexOf(document.activeElement);
  if (at < 0 && document.activeElement !== box) return;
  const to = at + (event.key === "ArrowDown" ? 1 : -1);
  event.preventDefault();
  (to < 0 ? box : hits[Math.min(to, hits.length - 1)]).focus();
});

// What was typed on the page before, once the box is listened to.
window.addEventListener("load", () => {
  const kept = sessionStorage.getItem("find");
  const box = document.querySelector(".find-box");
  sessionStorage.removeItem("find");
  if (!kept || !box) return;
  box.value = kept + box.value;
  box.dispatchEvent(new Event("input", { bubbles: true }));
});
