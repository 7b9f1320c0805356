// Keys, dialogs, and clocks that tick. Everything else on a page comes from the server.
import { serverNow } from "./moment.js";

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const closed = event.target.closest?.("dialog:not([open])"); // it keeps the focus until the next frame
  if (closed) event.target.blur();
  const field = !closed && event.target.closest?.("input, textarea, select, [contenteditable], dialog, canvas");
  if (field || (event.key.startsWith("Arrow") && event.target.closest?.("[data-drag]"))) return;
  const control = [...document.querySelectorAll("[data-key]")].find((one) => one.dataset.key === event.key);
  if (!control || event.key === "Enter") return;
  event.preventDefault();
  control.click();
});

document.addEventListener("click", (event) => {
  const dialog = document.getElementById(event.target.closest("[data-open]")?.dataset.open);
  if (dialog && !(event.ctrlKey || event.metaKey || event.shiftKey)) {
    event.preventDefault(); // of Find, which is a link where no script runs
    dialog.showModal();
  }
  const jump = event.target.closest("[data-open-details]");
  if (jump) {
    const details = document.getElementById(jump.dataset.openDetails);
    details.open = true;
    details.scrollIntoView({ block: "nearest" });
    details.querySelector("summary").focus();
    event.preventDefault();
  }
});

// A text is copied from where it stands.
document.addEventListener("click", async (event) => {
  const copy = event.target.closest?.("[data-copy]");
  if (!copy) return;
  const text = document.getElementById(copy.dataset.copy);
  text.select();
  try {
    await navigator.clipboard.writeText(text.value);
  } catch {
    document.execCommand("copy"); // without TLS there is no clipboard
  }
  copy.textContent = "copied";
});

// A slider stands beside its field: it fills it in while it moves, and sends the form when it is let go.
document.addEventListener("input", (event) => {
  const slider = event.target.closest?.("input[data-for]");
  if (slider) slider.form.elements[slider.dataset.for].value = slider.value;
});
document.addEventListener("change", (event) => {
  const slider = event.target.closest?.("input[data-for]");
  if (slider) slider.form.requestSubmit();
});

function tick() {
  for (const clock of document.querySelectorAll(".clock[data-until]")) {
    const left = Math.round((new Date(clock.dataset.until) - serverNow()) / 1000);
    const size = Math.abs(left);
    const text = `${left < 0 ? "−" : ""}${Math.floor(size / 60)}:${String(size % 60).padStart(2, "0")}`;
    clock.querySelector(".count").textContent = text;
    clock.classList.toggle("over", left < 0);
    clock.classList.toggle("soon", left >= 0 && left < 300);
  }
}
setInterval(tick, 1000);

// What is wrong with a field is told beside it too, by the words of its label; and the field is gone to.
function unmark(form) {
  for (const one of form.querySelectorAll(".field-wrong")) one.remove();
  for (const one of form.querySelectorAll("[aria-invalid]")) {
    one.removeAttribute("aria-invalid");
    one.removeAttribute("aria-describedby");
  }
}
// Of several fields that are called so, the one with what the sentence quotes.
function fieldOf(form, told) {
  const said = told.textContent.toLowerCase();
  const named = (field) => (field.ariaLabel ?? field.labels[0].textContent).trim().toLowerCase();
  const fields = [...form.querySelectorAll("label")].map((label) => label.control).filter(Boolean);
  const exact = fields.filter((field) => named(field).startsWith(said.split(":")[0]));
  const near = exact.length ? exact : fields.filter((field) => named(field).startsWith(told.dataset.field.toLowerCase()));
  return near.find((field) => said.includes(`“${field.value.trim().toLowerCase()}”`)) ?? near[0];
}
document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.detail.elt.closest?.("form");
  if (form) unmark(form);
});
document.addEventListener("htmx:afterRequest", (event) => {
  const form = event.detail.elt.closest?.("form");
  const answer = event.detail.xhr;
  if (!form || !answer.responseText.includes("data-field=")) return;
  const told = [...new DOMParser().parseFromString(answer.responseText, "text/html").querySelectorAll("[data-field]")];
  let first = null;
  for (const [number, one] of told.entries()) {
    const field = fieldOf(form, one);
    if (!field) continue;
    const note = document.createElement("em");
    note.className = "field-wrong";
    note.id = `wrong-${number}`;
    note.textContent = one.textContent;
    field.labels[0].after(note);
    field.setAttribute("aria-invalid", "true");
    field.setAttribute("aria-describedby", note.id);
    first ??= field;
  }
  if (answer.status === 422) first?.focus({ preventScroll: false }); // else it was asked while one writes
});

// What had the keyboard has it again once what is around it was swapped, or the same page came anew: else the next key would
// be the page's own.
const NAMED_BY = ["id", "data-step", "name", "href", "aria-label"];
const PLACE = "isostasis-focus";
function focused() {
  const one = document.activeElement;
  if (!one?.matches(":focus-visible:not(input, textarea, select)")) return null;
  const name = NAMED_BY.find((each) => one.hasAttribute(each));
  return name ? `${one.localName}[${name}="${CSS.escape(one.getAttribute(name))}"]` : null;
}
function focusOn(selector) {
  if (selector && document.activeElement === document.body) document.querySelector(selector)?.focus({ preventScroll: true });
}
let before = null;
document.addEventListener("htmx:beforeSwap", () => { before = focused(); });
document.addEventListener("htmx:afterSwap", () => focusOn(before));
addEventListener("pagehide", () => sessionStorage.setItem(PLACE, JSON.stringify([location.href, focused()])));
const [address, selector] = JSON.parse(sessionStorage.getItem(PLACE) ?? "[]");
if (address === location.href) focusOn(selector);
