// The bench on a phone: the screen stays awake where the browser allows.

async function stayAwake() {
  if (document.visibilityState !== "visible" || !document.querySelector("[data-awake]")) return;
  try {
    await navigator.wakeLock?.request("screen");
  } catch {
    // the browser does not allow it now
  }
}
document.addEventListener("visibilitychange", stayAwake);
stayAwake();
