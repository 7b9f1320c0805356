// Timers ring, also without a connection. A first tap anywhere arms sound: browsers allow none before.
import { serverNow } from "./moment.js";

const AGAIN_MS = 30000; // what rings and is not heard rings again
// It is kept asleep: a sound that runs, silent or not, keeps the processor awake.
let sound = null;
addEventListener("pointerdown", async () => {
  const allowed = new AudioContext();
  await allowed.resume();
  await allowed.suspend();
  sound = allowed; // not before: what rang meanwhile would be cut short
}, { once: true });

async function beep() {
  if (!sound) return;
  await sound.resume();
  let last;
  for (const [after, pitch] of [[0, 660], [0.25, 880], [0.5, 660]]) {
    const tone = sound.createOscillator();
    const loud = sound.createGain();
    const start = sound.currentTime + after;
    tone.frequency.value = pitch;
    loud.gain.setValueAtTime(0.25, start);
    loud.gain.exponentialRampToValueAtTime(0.001, start + 0.22);
    tone.connect(loud).connect(sound.destination);
    tone.start(start);
    tone.stop(start + 0.24);
    last = tone;
  }
  last.onended = () => sound.suspend();
}

const rung = new Map(JSON.parse(sessionStorage.getItem("isostasis-rung") ?? "[]"));
function ring() {
  let loud = false;
  for (const card of document.querySelectorAll("[data-rings]")) {
    if (new Date(card.dataset.rings) > serverNow()) continue;
    if (card.hidden) card.parentElement.prepend(card); // what rings now goes before what is merely ready
    card.hidden = false;
    const name = card.dataset.ring;
    if (Date.now() - (rung.get(name) ?? 0) < AGAIN_MS) continue;
    if (!rung.has(name) && document.hidden && window.Notification?.permission === "granted") {
      new Notification(card.getAttribute("aria-label"), { body: card.querySelector("p.small").textContent, tag: name });
    }
    rung.set(name, Date.now());
    loud = true;
  }
  if (!loud) return;
  sessionStorage.setItem("isostasis-rung", JSON.stringify([...rung].slice(-60)));
  beep();
  if (navigator.userActivation?.hasBeenActive) navigator.vibrate?.([200, 100, 200]);
}
setInterval(ring, 1000);

document.addEventListener("click", (event) => {
  if (event.target.closest?.("[data-notify]")) window.Notification?.requestPermission();
});
