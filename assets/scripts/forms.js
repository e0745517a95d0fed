// A form is sent once, however often its button is pressed; one half filled is not left unasked.
// A number is selected as soon as it is touched; buttons copy what can be copied, and print.
import { reveal } from "./shared.js";

const RETRY_MS = 5_000; // what was cancelled on its way can be sent again
const changed = new Set();

document.addEventListener("input", ({ target }) => {
  const form = target.form?.closest("form[data-ask-before-leaving]");
  if (form) changed.add(form);
});

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.method !== "post" || form.hasAttribute("hx-post")) return;
  if (form.dataset.sent) event.preventDefault();
  form.dataset.sent = "yes";
  setTimeout(() => delete form.dataset.sent, RETRY_MS);
  changed.delete(form);
});

window.addEventListener("beforeunload", (event) => {
  if (changed.size) event.preventDefault();
});

// Back again by the browser's own memory: the form can be sent once more.
window.addEventListener("pageshow", ({ persisted }) => {
  if (persisted) for (const form of document.forms) delete form.dataset.sent;
});

document.addEventListener("focusin", ({ target }) => {
  if (!target.matches("input[inputmode], input[data-select]")) return;
  const { value } = target;
  requestAnimationFrame(() => {
    // Else it would take the focus back, or what was typed meanwhile would be typed over.
    if (document.activeElement === target && target.value === value) target.select();
  });
});

document.addEventListener("click", async ({ target }) => {
  const button = target.closest("[data-copy]");
  if (!button) return;
  try {
    await navigator.clipboard.writeText(button.dataset.copy);
    button.textContent = "Copied";
  } catch {
    // The browser forbids it: what is to be copied is selected instead.
    button.parentElement.querySelector("[data-select]")?.select();
    button.textContent = "Selected: copy it";
  }
});
reveal("[data-copy]");

document.addEventListener("click", ({ target }) => {
  if (target.closest("[data-print]")) print();
});
reveal("[data-print]");

// Another blank row of a list: its template, under the next number.
document.addEventListener("click", ({ target }) => {
  const rows = target.closest("[data-add]")?.closest("[data-rows]");
  if (!rows) return;
  const { rows: prefix } = rows.dataset;
  const [total, most] = ["TOTAL", "MAX_NUM"].map((what) => rows.querySelector(`[name="${prefix}-${what}_FORMS"]`));
  const blank = rows.querySelector(":scope > template").innerHTML;
  target.insertAdjacentHTML("beforebegin", blank.replaceAll(`${prefix}-__prefix__`, `${prefix}-${total.value}`));
  const row = target.previousElementSibling;
  for (const button of row.querySelectorAll("[data-add]")) button.hidden = false;
  total.value++;
  target.hidden = Number(total.value) >= Number(most.value);
  row.querySelector("input:not([type=hidden]), select").focus();
});
reveal("[data-add]");
