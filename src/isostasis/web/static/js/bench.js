// The bench on a phone: the screen stays awake, and what another device marked is shown within seconds.

let lock = null;
async function stayAwake() {
  if (document.visibilityState !== "visible" || !document.querySelector("[data-bench]")) return;
  try {
    lock = await navigator.wakeLock?.request("screen");
  } catch {
    lock = null; // the browser does not allow it now
  }
}
document.addEventListener("visibilitychange", stayAwake);
stayAwake();

let known = null;
async function look() {
  const bench = document.querySelector("[data-bench]");
  if (!bench || document.visibilityState !== "visible") return;
  try {
    const at = await (await fetch(bench.dataset.bench)).text();
    document.documentElement.classList.remove("lost");
    const busy = document.querySelector(".htmx-request") || document.activeElement?.matches("input, textarea, select");
    if (known !== null && at !== known && !busy) location.reload();
    known = busy && known !== null ? known : at;
  } catch {
    document.documentElement.classList.add("lost"); // told by the style
  }
}
setInterval(look, 2000);
