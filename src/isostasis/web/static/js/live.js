// What other devices do is shown within seconds; a lost connection is told.
import { heard } from "./moment.js";
import { send } from "./outbox.js";

const ASK_EVERY_MS = 2000;
const SILENT_MS = 8000; // a stream that says nothing for so long is lost
const html = document.documentElement;
let known = null;
let heardAt = Date.now();
let stream = null;

function lost(isLost) {
  const was = html.classList.contains("lost");
  html.classList.toggle("lost", isLost);
  if (was && !isLost) send();
}

const typing = () => {
  const at = document.activeElement;
  return at?.matches("input, textarea, select") && !at.matches("[type=hidden], [type=range]");
};
// Nothing is swapped under a finger: a press on what is gone by the time that it is let go is lost.
const JUST_MS = 800;
let touchedAt = 0;
let down = false;
for (const kind of ["pointerdown", "pointerup", "pointercancel", "keydown"]) {
  addEventListener(kind, () => {
    touchedAt = Date.now();
    down = kind === "pointerdown";
  }, { capture: true });
}
const touching = () => down || Date.now() - touchedAt < JUST_MS;
document.addEventListener("htmx:beforeSwap", (event) => {
  const asked = event.detail.requestConfig.elt.id;
  if (!["main", "wet"].includes(asked) || !touching()) return;
  event.detail.shouldSwap = false; // a little later
  if (asked === "wet") setTimeout(refreshWet, JUST_MS);
  else wanted = true;
});
const busy = () => touching() || document.querySelector("#main .htmx-request, #main.htmx-request, dialog[open], .dragging") || typing();

async function refreshWet() {
  if (document.querySelector("#wet details[open]")) return;
  const here = encodeURIComponent(`${location.pathname}${location.search}`);
  // Each asks by its own element: of two that one element asks for, htmx drops the one that waits.
  await window.htmx?.ajax("GET", `/wet-line?here=${here}`, { source: "#wet", target: "#wet", swap: "outerHTML" });
  heard(document.getElementById("wet")?.dataset.now);
}
let wanted = false; // the page is out of date and could not be changed under somebody's hands
const plain = (mark) => mark?.replaceAll(/\s/g, "");
const shown = () => plain(document.querySelector("#main [data-live]")?.dataset.live);
// What is open stays open; hours to go, which stand beside the name, change meanwhile.
const named = (details) => {
  const summary = details.querySelector("summary");
  return (summary.querySelector("strong") ?? summary).textContent.trim();
};
async function freshen() {
  if (shown() === known) wanted = false;
  if (!wanted || busy() || html.classList.contains("lost")) return;
  wanted = false;
  const open = new Set([...document.querySelectorAll("#main details[open]")].map(named));
  const main = { source: "#main", target: "#main", select: "#main", swap: "outerHTML show:none" };
  await window.htmx?.ajax("GET", location.href, main);
  for (const one of document.querySelectorAll("#main details")) if (open.has(named(one))) one.open = true;
}
setInterval(freshen, 500);

// The newest mark has come: what stands here is out of date if it carries another.
async function changed(mark) {
  heardAt = Date.now();
  lost(false);
  const news = known !== null && mark !== known;
  known = mark;
  wanted = shown() !== undefined && shown() !== known;
  await freshen();
  if (news) refreshWet();
}

function listen() {
  if (document.visibilityState !== "visible" || stream) return;
  stream = new EventSource("/live");
  stream.onmessage = (event) => changed(plain(event.data));
  stream.addEventListener("here", () => {
    heardAt = Date.now();
    lost(false);
  });
  stream.onerror = () => {
    heardAt = 0; // asked at once whether there is anybody
    if (stream?.readyState === EventSource.CLOSED) stream = "none"; // there is none to be had: it is asked for instead
  };
}
async function ask() {
  const silent = Date.now() - heardAt > SILENT_MS;
  if (document.visibilityState === "visible" && (stream === "none" || silent)) await askNow();
}
async function askNow() {
  try {
    const answer = await fetch("/live/at");
    if (!answer.ok) throw new Error(answer.status);
    changed(plain(await answer.text()));
  } catch {
    lost(true);
  }
}
document.addEventListener("visibilitychange", () => {
  if (document.visibilityState === "visible") {
    if (stream === null) listen();
    askNow();
  } else if (stream && stream !== "none") {
    stream.close();
    stream = null;
  }
});
document.addEventListener("isostasis:sent", askNow);
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.target === document.body) refreshWet(); // a page that was swapped in whole has no rings yet
});
addEventListener("offline", () => lost(true));
addEventListener("pagehide", () => stream?.close?.());

document.addEventListener("click", (event) => {
  const opener = event.target.closest?.(".wet-one");
  if (opener) {
    const open = opener.closest(".wet-line").classList.toggle("open");
    opener.setAttribute("aria-expanded", String(open));
  }
});

addEventListener("load", () => {
  listen();
  refreshWet();
});
setInterval(ask, ASK_EVERY_MS);
