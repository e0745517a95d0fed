// The ends of a plan's periods are dragged along its time line, or moved by keys: what changes are
// the minutes in the form, which has the day simulated anew.

const form = document.getElementById("plan-form");
const STEP_MIN = 5;
const LEAST_MIN = 5;
const KEYS = { ArrowLeft: -STEP_MIN, ArrowDown: -STEP_MIN, ArrowRight: STEP_MIN, ArrowUp: STEP_MIN };

let dragged = null;

function fieldOf(end) {
  return form.elements[`periods-${end.dataset.end}-minutes`];
}

function minutesOf(end) {
  return Number(end.getAttribute("aria-valuenow"));
}

function show(end, minutes) {
  end.setAttribute("aria-valuenow", String(minutes));
  end.setAttribute("aria-valuetext", `${minutes} minutes`);
  fieldOf(end).value = String(minutes);
  document.querySelector("[data-plan-told]").textContent =
    `${end.getAttribute("aria-label")}: ${minutes} minutes.`;
}

function done(end) {
  fieldOf(end).dispatchEvent(new Event("change", { bubbles: true }));
}

function rounded(minutes) {
  return Math.max(LEAST_MIN, Math.round(minutes / STEP_MIN) * STEP_MIN);
}

document.addEventListener("pointerdown", (event) => {
  const end = event.target.closest("[data-end]");
  if (!end || event.button) return;
  const line = end.closest("[data-minutes]");
  const minutesPerPixel = Number(line.dataset.minutes) / line.getBoundingClientRect().width;
  dragged = { end, fromX: event.clientX, from: minutesOf(end), minutesPerPixel };
  end.setPointerCapture(event.pointerId);
  end.focus();
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const { end, fromX, from, minutesPerPixel } = dragged;
  const minutes = rounded(from + (event.clientX - fromX) * minutesPerPixel);
  end.setAttribute("transform", `translate(${(minutes - from) / minutesPerPixel} 0)`);
  show(end, minutes);
});

for (const name of ["pointerup", "pointercancel"]) {
  document.addEventListener(name, () => {
    if (!dragged) return;
    const { end, from } = dragged;
    dragged = null;
    end.removeAttribute("transform");
    if (minutesOf(end) !== from) done(end);
  });
}

document.addEventListener("keydown", (event) => {
  const end = event.target.closest("[data-end]");
  const step = end && KEYS[event.key];
  if (!step) return;
  event.preventDefault();
  show(end, Math.max(LEAST_MIN, minutesOf(end) + step));
  done(end);
});
