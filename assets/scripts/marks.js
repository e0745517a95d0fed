// Strokes of a sound corrected by hand: chosen, added, removed and shifted in the drawing. The field
// with the moments is what counts; the server draws them again after each change.

const NEAR = 7; // pixels
const SHIFT_S = 0.002;

let chosen = -1;
let dragged = null;

const marks = () => document.querySelector("[data-marks]");
const field = () => document.getElementById("id_times");
const moments = () => field().value.trim().split(/\s+/).filter(Boolean).map(Number);
const rowS = () => Number(marks().dataset.row);

function write(times) {
  const kept = times[chosen];
  times.sort((a, b) => a - b);
  chosen = times.indexOf(kept);
  field().value = times.map((moment) => moment.toFixed(3)).join(" ");
}

function send() {
  field().dispatchEvent(new Event("change", { bubbles: true }));
}

function show() {
  if (!marks()) return;
  document.querySelector("[data-marks-acts]").hidden = false;
  marks().querySelectorAll(".chosen").forEach((line) => line.remove());
  const moment = moments()[chosen];
  for (const name of ["remove", "add"]) {
    document.querySelector(`[data-marks-${name}]`).disabled = moment === undefined;
  }
  if (moment === undefined) return;
  document.querySelector("[data-marks-told]").textContent =
    `Stroke ${chosen + 1} of ${moments().length}, at ${moment.toFixed(3)} s.`;
  for (const row of marks().querySelectorAll("svg")) {
    const { width, height } = row.viewBox.baseVal;
    const at = (width * (moment - Number(row.dataset.from))) / rowS();
    if (at < 0 || at >= width) continue;
    const line = document.createElementNS("http://www.w3.org/2000/svg", "path");
    line.setAttribute("class", "chosen");
    line.setAttribute("d", `M${at} 0V${height}`);
    row.append(line);
  }
}

function momentAt(row, x) {
  const { left, width } = row.getBoundingClientRect();
  return Number(row.dataset.from) + (rowS() * (x - left)) / width;
}

function press(event) {
  const row = event.target.closest("[data-marks] svg");
  if (!row) return;
  const times = moments();
  const moment = momentAt(row, event.clientX);
  const nearS = (rowS() * NEAR) / row.getBoundingClientRect().width;
  const distances = times.map((time) => Math.abs(time - moment));
  const nearest = distances.indexOf(Math.min(...distances));
  if (distances[nearest] <= nearS) {
    chosen = nearest;
    dragged = { row, from: event.clientX, moved: false };
  } else {
    times.push(moment);
    chosen = times.length - 1;
    write(times);
    send();
  }
  show();
}

function drag(event) {
  if (!dragged || Math.abs(event.clientX - dragged.from) < 2) return;
  const times = moments();
  times[chosen] = Math.max(0, momentAt(dragged.row, event.clientX));
  dragged.moved = true;
  write(times);
  show();
}

function release() {
  if (dragged?.moved) send();
  dragged = null;
}

function remove() {
  const times = moments();
  if (times[chosen] === undefined) return;
  times.splice(chosen, 1);
  const next = Math.min(chosen, times.length - 1);
  write(times);
  chosen = next;
  send();
}

function add() {
  const times = moments();
  const before = times[chosen];
  if (before === undefined) return;
  const after = times[chosen + 1] ?? before + (before - (times[chosen - 1] ?? before - 0.1));
  times.push((before + after) / 2);
  chosen = times.length - 1;
  write(times);
  send();
}

function shift(seconds) {
  const times = moments();
  if (times[chosen] === undefined) return;
  times[chosen] = Math.max(0, times[chosen] + seconds);
  write(times);
  show();
  send();
}

const KEYS = {
  ArrowRight: (event) => (event.shiftKey ? shift(SHIFT_S) : choose(chosen + 1)),
  ArrowLeft: (event) => (event.shiftKey ? shift(-SHIFT_S) : choose(chosen - 1)),
  Delete: remove,
  Backspace: remove,
  "+": add,
};

function choose(place) {
  chosen = Math.max(0, Math.min(place, moments().length - 1));
  show();
}

document.addEventListener("keydown", (event) => {
  if (document.activeElement !== marks() || !KEYS[event.key] || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  KEYS[event.key](event);
});
document.addEventListener("pointerdown", press);
document.addEventListener("pointermove", drag);
document.addEventListener("pointerup", release);
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-marks-remove]")) remove();
  if (event.target.closest("[data-marks-add]")) add();
});
document.addEventListener("htmx:beforeSwap", () => {
  const focused = document.activeElement === marks();
  document.addEventListener(
    "htmx:afterSwap",
    () => {
      if (focused) marks()?.focus();
      show();
    },
    { once: true },
  );
});
show();
