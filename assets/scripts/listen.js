// Listening to the burst of the Desk, with a mark that follows along; and saving it as WAV.
import { reveal, save } from "./shared.js";
import { RATE_HZ, play, soundOf } from "./sound.js";
import { wav } from "./wav.js";

let playing; // { context, stop, frame }

function burstSound() {
  return soundOf(document.getElementById("listen").dataset.burst);
}

function follow(startS) {
  const drawing = document.getElementById("drawing");
  const playhead = document.getElementById("playhead");
  if (!playing || !playhead) return;
  const percent = `${(100 * (playing.context.currentTime - startS)) / Number(drawing.dataset.endsS)}%`;
  playhead.setAttribute("x1", percent);
  playhead.setAttribute("x2", percent);
  playhead.setAttribute("visibility", "visible");
  playing.frame = requestAnimationFrame(() => follow(startS));
}

function stop() {
  if (!playing) return;
  cancelAnimationFrame(playing.frame);
  playing.stop();
  playing = undefined;
  document.getElementById("playhead")?.setAttribute("visibility", "hidden");
  const button = document.getElementById("listen");
  if (button) button.textContent = "Listen";
}

async function listen(button) {
  playing = play(await burstSound(), stop);
  button.textContent = "Stop";
  if (!matchMedia("(prefers-reduced-motion: reduce)").matches) follow(playing.context.currentTime);
}

document.addEventListener("click", async (event) => {
  const button = event.target.closest("#listen");
  if (button && playing) stop();
  else if (button) await listen(button);
  else if (event.target.closest("#save-wav")) save(wav([await burstSound()], RATE_HZ), "burst.wav");
});
document.addEventListener("keydown", ({ key }) => {
  if (key === "Escape") stop();
});
document.addEventListener("htmx:beforeSwap", ({ target }) => {
  if (target.id === "desk") stop();
});
reveal("#listen, #save-wav");
