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

export function post(url, values) {
  const token = document.querySelector("meta[name=csrf-token]").content;
  return window.htmx.ajax("POST", url, { values: { ...values, csrf_token: token }, swap: "none", target: "#problem" });
}
