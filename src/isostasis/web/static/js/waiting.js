// Who waits for longer than a second sees how long it will still take, by what it took before; after three, it can be
// stopped. The server ends the work at its next step, and what is not finished is not kept.

const SHOW_MS = 1000;
const STOP_MS = 3000;
const KEEP = 5; // durations of each kind of request
const STORE = "isostasis-took";

// What is asked, whatever scene or row it is about.
const kindOf = (method, url) => `${method} ${new URL(url, location.href).pathname.replace(/^\/s\/[^/]+/, "/s/*").replace(/\d+/g, "#")}`;

function remembered() {
  try {
    return JSON.parse(localStorage.getItem(STORE) ?? "{}");
  } catch {
    return {};
  }
}

function tookBefore(kind) {
  const spans = [...(remembered()[kind] ?? [])].sort((one, other) => one - other);
  return spans[Math.floor(spans.length / 2)] ?? null;
}

function remember(kind, took) {
  const all = remembered();
  all[kind] = [...(all[kind] ?? []), Math.round(took)].slice(-KEEP);
  localStorage.setItem(STORE, JSON.stringify(Object.fromEntries(Object.entries(all).slice(-60))));
}

let waiting = null; // {kind, since, stop, timer}

function words(now) {
  const took = (now - waiting.since) / 1000;
  if (waiting.before === null) return `Working for ${Math.floor(took)} s`;
  const left = waiting.before / 1000 - took;
  return left > 0 ? `Working: about ${Math.ceil(left)} s left` : `Working: ${Math.floor(took)} s, longer than last time`;
}

function show() {
  const now = performance.now();
  let box = document.getElementById("waiting");
  if (!box) {
    box = document.createElement("div");
    box.id = "waiting";
    box.innerHTML = '<p role="status"></p><progress max="100"></progress><button type="button" class="button plain" hidden>Stop</button>';
    box.querySelector("button").addEventListener("click", () => waiting?.stop());
    document.body.append(box);
  }
  box.querySelector("p").textContent = words(now);
  const bar = box.querySelector("progress");
  if (waiting.before === null) bar.removeAttribute("value");
  else bar.value = Math.min(98, (100 * (now - waiting.since)) / waiting.before);
  box.querySelector("button").hidden = now - waiting.since < STOP_MS;
}

function begin(kind, stop) {
  end();
  waiting = { kind, since: performance.now(), before: tookBefore(kind), stop };
  waiting.timer = setTimeout(function again() {
    show();
    waiting.timer = setTimeout(again, 250);
  }, SHOW_MS);
}

function end() {
  if (!waiting) return;
  clearTimeout(waiting.timer);
  document.getElementById("waiting")?.remove();
  waiting = null;
}

// What a person has asked for, and not what a page asks for by itself.
const asked = (event) => event.detail.requestConfig?.triggeringEvent?.isTrusted;
document.addEventListener("htmx:beforeRequest", (event) => {
  if (!asked(event)) return;
  const { xhr, requestConfig } = event.detail;
  // Loaded anew, the page asks no longer, and shows what holds, whether or not it was done meanwhile.
  begin(kindOf(requestConfig.verb.toUpperCase(), requestConfig.path), () => location.reload());
  waiting.xhr = xhr;
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (!waiting || waiting.xhr !== event.detail.xhr) return;
  if (event.detail.successful) remember(waiting.kind, performance.now() - waiting.since);
  end();
});

// The same for a page that is gone to.
document.addEventListener("click", (event) => {
  const link = event.target.closest?.("a[href]");
  if (!link || event.defaultPrevented || event.ctrlKey || event.metaKey || event.shiftKey || link.target) return;
  if (link.hasAttribute("download") || link.origin !== location.origin || link.href.split("#")[0] === location.href.split("#")[0]) return;
  begin(kindOf("GET", link.href), () => {
    window.stop();
    end();
  });
});
window.addEventListener("pagehide", () => {
  if (waiting && !waiting.xhr) remember(waiting.kind, performance.now() - waiting.since);
  end();
});
