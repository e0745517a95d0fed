// Listening to one set-up, or to two in turn; the ruler dragged over the drawings; printing.
import { reveal } from "./shared.js";
import { RATE_HZ, play, soundOf } from "./sound.js";

const SILENCE_S = 0.7;

let playing; // { stop, button, words }

function stop() {
  if (!playing) return;
  playing.stop();
  playing.button.textContent = playing.words;
  playing = undefined;
}

function inTurn(first, second) {
  const samples = new Float32Array(first.length + SILENCE_S * RATE_HZ + second.length);
  samples.set(first);
  samples.set(second, samples.length - second.length);
  return samples;
}

async function listen(button) {
  const { listen: first, then: second } = button.dataset;
  const samples = second ? inTurn(await soundOf(first), await soundOf(second)) : await soundOf(first);
  playing = { ...play(samples, stop), button, words: button.textContent };
  button.textContent = "Stop";
}

document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-listen]");
  if (!button) return;
  const same = playing?.button === button;
  stop();
  if (!same) await listen(button);
});
document.addEventListener("keydown", ({ key }) => {
  if (key === "Escape") stop();
});
document.addEventListener("htmx:beforeSwap", stop);

// The ruler follows a finger or the mouse over any of the drawings.
let dragged; // the box of the drawing that the drag began on: a swap replaces the drawing
function moveRuler({ clientX }) {
  const ruler = document.getElementById("ruler");
  const share = Math.min(Math.max((clientX - dragged.left) / dragged.width, 0), 1);
  ruler.value = share * Number(ruler.max);
  for (const line of document.querySelectorAll(".ruler-line")) {
    line.setAttribute("x1", `${100 * share}%`);
    line.setAttribute("x2", `${100 * share}%`);
  }
  ruler.dispatchEvent(new Event("input", { bubbles: true }));
}
document.addEventListener("pointerdown", (event) => {
  const drawing = event.target.closest("[data-ruler]");
  if (!drawing || event.button) return;
  dragged = drawing.getBoundingClientRect();
  moveRuler(event);
});
document.addEventListener("pointermove", (event) => {
  if (dragged) moveRuler(event);
});
for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, () => (dragged = undefined));
reveal("[data-listen]");
