// One key for every main action; the keys are listed in the dialog that "?" opens.
import { reveal } from "./shared.js";

// Looked up at each use: going back in history puts new elements in place.
const help = () => document.getElementById("help");

document.addEventListener("click", (event) => {
  if (event.target.closest("#open-help")) help().showModal();
});

document.addEventListener("keydown", (event) => {
  if (event.altKey || event.ctrlKey || event.metaKey || help().open) return;
  const field = event.target.closest("input, select, textarea");
  if (field) {
    if (event.key === "Escape") field.blur();
    return;
  }
  if (event.key === "?") {
    help().showModal();
  } else if (event.key === "l") {
    document.querySelector("[data-switch-light]").click();
  } else {
    const choice = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
    if (!choice) return;
    if (choice.matches("a, button")) {
      choice.click();
    } else {
      choice.focus();
      choice.select?.();
    }
  }
  event.preventDefault();
});
reveal("#open-help");

// Typing the first letters of an entry of a list is one change, once the typing pauses.
const PAUSE_MS = 500;
let typedAt = -Infinity;
let later;

document.addEventListener("keydown", ({ target, key, timeStamp }) => {
  if (target.matches("select") && key.length === 1) typedAt = timeStamp;
});

document.addEventListener(
  "change",
  (event) => {
    const { target, timeStamp } = event;
    if (!event.isTrusted || !target.matches("select") || timeStamp - typedAt > PAUSE_MS) return;
    event.stopImmediatePropagation();
    clearTimeout(later);
    later = setTimeout(() => target.dispatchEvent(new Event("change", { bubbles: true })), PAUSE_MS);
  },
  true,
);
