// Listening to one set-up, or to two in turn; made here, as on the Desk.
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
document.addEventListener("htmx:beforeSwap", stop);
reveal("[data-listen]");
