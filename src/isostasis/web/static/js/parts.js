// Swaps parts of the page by id, and keeps one request in flight: the latest wish wins, older ones are dropped.

export function swapParts(html) {
  const parsed = new DOMParser().parseFromString(html, "text/html");
  for (const part of parsed.querySelectorAll("[id]")) {
    const here = document.getElementById(part.id);
    if (here && !part.parentElement.closest("[id]")) {
      const fresh = document.adoptNode(part);
      here.replaceWith(fresh);
      window.htmx.process(fresh);
    }
  }
}

export function latestOnly(apply) {
  let busy = false;
  let wanted = null;
  async function next() {
    if (busy || !wanted) return;
    const url = wanted;
    wanted = null;
    busy = true;
    try {
      const answer = await fetch(url, { headers: { "HX-Request": "true" } });
      apply(await answer.text(), url);
    } finally {
      busy = false;
      next();
    }
  }
  return {
    ask(url) {
      wanted = url;
      next();
    },
    drop() {
      wanted = null;
    },
  };
}

// One at a time, upon the revision that the page shows: what is saved next waits for the page that the last one brings.
// htmx itself keeps only the last of what waits, be it that page or what the hand has done.
let saved = Promise.resolve();
let waiting = 0;
export const saving = () => waiting > 0;
async function send(url, values) {
  const token = document.querySelector("meta[name=csrf-token]").content;
  const base = document.querySelector("svg.panels")?.dataset.base;
  const sent = { ...(base && { base }), ...values, csrf_token: token };
  await window.htmx.ajax("POST", url, { values: sent, swap: "none", target: "#problem" });
  while (document.body.matches(".htmx-request")) await new Promise((done) => setTimeout(done, 20));
}
export function post(url, values) {
  waiting += 1;
  const sent = saved.then(() => send(url, values)).finally(() => { waiting -= 1; });
  saved = sent.catch(() => {}); // what comes next is sent all the same
  return sent;
}
