// The hold, changed by dragging "finger up" along the time axis or by arrow keys.
const SETTLED_MS = 120; // a held arrow key asks once it rests

let settling;

function field() {
  return document.getElementById("choose-hold");
}

function mark() {
  return document.getElementById("finger-up");
}

function setHold(seconds) {
  const { ariaValueMin: shortest, ariaValueMax: longest } = mark();
  const within = Math.min(Number(longest), Math.max(Number(shortest), seconds));
  const tenths = Math.round(within * 10) / 10;
  field().value = String(tenths);
  field().dispatchEvent(new Event("input", { bubbles: true })); // an answer on its way leaves it alone
  return tenths;
}

function ask() {
  field().dispatchEvent(new Event("change", { bubbles: true }));
}

function secondsAt(drawing, clientX) {
  const box = drawing.getBoundingClientRect();
  return ((clientX - box.left) / box.width) * Number(drawing.dataset.endsS);
}

function moveMark(drawing, seconds) {
  const finger = mark();
  const along = (100 * seconds) / Number(drawing.dataset.endsS);
  const turned = along > Number(drawing.dataset.labelTurnsAt);
  const percent = `${along}%`;
  for (const part of finger.querySelectorAll("line")) {
    part.setAttribute("x1", percent);
    part.setAttribute("x2", percent);
  }
  finger.querySelector("circle").setAttribute("cx", percent);
  finger.querySelector("rect").setAttribute("x", percent);
  const label = finger.querySelector("text");
  label.setAttribute("x", percent);
  label.setAttribute("dx", turned ? -12 : 12);
  label.setAttribute("text-anchor", turned ? "end" : "start");
  label.textContent = `finger up at ${seconds} s`;
}

document.addEventListener("pointerdown", (event) => {
  const finger = event.target.closest?.("#finger-up");
  if (!finger || event.button !== 0) return;
  const drawing = finger.closest("svg");
  const before = field().value;
  finger.setPointerCapture(event.pointerId);

  const move = (moved) => moveMark(drawing, setHold(secondsAt(drawing, moved.clientX)));
  const end = (ended) => {
    finger.removeEventListener("pointermove", move);
    if (ended.type === "pointercancel") {
      moveMark(drawing, setHold(Number(before)));
    } else if (field().value !== before) {
      ask();
    }
  };
  finger.addEventListener("pointermove", move);
  finger.addEventListener("pointerup", end, { once: true });
  finger.addEventListener("pointercancel", end, { once: true });
});

document.addEventListener("keydown", (event) => {
  const step = { ArrowLeft: -0.5, ArrowRight: 0.5, ArrowDown: -0.5, ArrowUp: 0.5 }[event.key];
  const onFinger = event.target.id === "finger-up";
  const sideways = event.key === "ArrowLeft" || event.key === "ArrowRight";
  if (!step || event.altKey || event.ctrlKey || event.metaKey || !mark()) return;
  if (!onFinger && (!sideways || event.target.closest("input, select, dialog"))) return;
  event.preventDefault();
  const before = Number(field().value.replace(",", "."));
  setHold((Number.isFinite(before) ? before : 6) + step * (event.shiftKey ? 10 : 1));
  clearTimeout(settling);
  settling = setTimeout(ask, SETTLED_MS);
});
