// What was pressed while the server could not be reached is kept on this device, told, and sent once when it can be.
// Every press has a key, so that one that arrived without our hearing of it does nothing the second time.

const STORE = "isostasis-outbox";
const TRY_EVERY_MS = 3000;

const kept = () => JSON.parse(localStorage.getItem(STORE) ?? "[]");
const keep = (presses) => localStorage.setItem(STORE, JSON.stringify(presses));

function newKey() {
  const bytes = crypto.getRandomValues(new Uint8Array(16)); // randomUUID is for pages over TLS alone
  return [...bytes].map((one) => one.toString(16).padStart(2, "0")).join("");
}

// A press keeps its key for as long as it is being sent, also when it is sent again.
document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.verb !== "post") return;
  event.detail.headers["Idempotency-Key"] = newKey();
  event.detail.elt.pressedAt = Date.now();
});

function told(form, presser) {
  const what = form.dataset.keep || form.getAttribute("aria-label") || "";
  return [presser?.textContent.trim(), what].filter(Boolean).join(": ");
}

document.addEventListener("htmx:sendError", (event) => {
  const form = event.detail.elt.closest("form");
  const config = event.detail.requestConfig;
  if (!form?.dataset.keep || config.verb !== "post") {
    show("There is no connection. What you typed stands here still: send it again when there is.");
    return;
  }
  const body = new URLSearchParams();
  for (const [name, value] of config.formData.entries()) if (typeof value === "string") body.append(name, value);
  const presser = config.triggeringEvent?.submitter;
  const press = {
    url: config.path, body: body.toString(), key: config.headers["Idempotency-Key"],
    at: event.detail.elt.pressedAt ?? Date.now(), told: told(form, presser),
  };
  keep([...kept(), press]);
  document.documentElement.classList.add("lost");
  list();
});

function show(sentence) {
  const place = document.getElementById("problem");
  if (!place) return;
  const note = document.createElement("p");
  note.className = "note stop";
  note.textContent = sentence;
  place.replaceChildren(note);
}

// Kept presses are listed, so that nobody presses again for doubt.
function list() {
  const presses = kept();
  let box = document.getElementById("outbox");
  if (!presses.length) {
    box?.remove();
    return;
  }
  if (!box) {
    box = document.createElement("div");
    box.id = "outbox";
    box.setAttribute("role", "status");
    document.body.append(box);
  }
  const clock = (at) => new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const lines = presses.map((one) => {
    const line = document.createElement("li");
    line.textContent = `${clock(one.at)} ${one.told}`;
    return line;
  });
  const head = document.createElement("strong");
  head.textContent = `Kept on this device: ${presses.length}, sent when there is a connection`;
  const items = document.createElement("ul");
  items.append(...lines.slice(0, 6));
  box.replaceChildren(head, items);
}

let sending = false;
export async function send() {
  if (sending) return;
  sending = true;
  let arrived = false;
  try {
    for (let presses = kept(); presses.length; presses = kept()) {
      const [first] = presses;
      const headers = {
        "HX-Request": "true", "Content-Type": "application/x-www-form-urlencoded",
        "Pressed-Ago": String(Math.max((Date.now() - first.at) / 1000, 0)), "Idempotency-Key": first.key,
      };
      const answer = await fetch(first.url, { method: "POST", headers, body: first.body });
      if (answer.status >= 500) break; // it is not up yet: tried again
      keep(kept().slice(1));
      arrived = true;
      if (answer.status >= 400) {
        const text = new DOMParser().parseFromString(await answer.text(), "text/html").body.textContent.trim();
        show(`“${first.told}” was not taken: ${text}`);
      }
    }
  } catch {
    // still no connection
  } finally {
    sending = false;
  }
  list();
  if (arrived) document.dispatchEvent(new CustomEvent("isostasis:sent"));
}

list();
setInterval(send, TRY_EVERY_MS);
addEventListener("online", send);
send();
