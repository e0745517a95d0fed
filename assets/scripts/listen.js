// The predicted burst as shutter clicks, made here from the frame times; nothing is recorded.
import { reveal, save } from "./shared.js";

const RATE_HZ = 22_050;
const LONGEST_S = 60; // of a longer burst, the first minute
const CLICK_S = 0.028;
const TAIL_S = 0.3;

let playing; // { source, context, frame }

// First and second curtain: two short falls of the same noise at every frame.
function click() {
  const samples = new Float32Array(Math.round(CLICK_S * RATE_HZ));
  let noise = 1;
  for (let n = 0; n < samples.length; n += 1) {
    noise = (noise * 16_807) % 2_147_483_647; // the same at every click
    const since = n / RATE_HZ;
    const fall = Math.exp(-since / 0.002) + (since > 0.016 ? 0.7 * Math.exp(-(since - 0.016) / 0.003) : 0);
    samples[n] = 0.6 * fall * ((noise / 2_147_483_647) * 2 - 1);
  }
  return samples;
}

function sound(timesS) {
  const heard = timesS.filter((time) => time < LONGEST_S);
  const samples = new Float32Array(Math.ceil(((heard.at(-1) ?? 0) + TAIL_S) * RATE_HZ));
  const one = click();
  for (const time of heard) {
    const start = Math.round(time * RATE_HZ);
    for (let n = 0; n < one.length; n += 1) samples[start + n] += one[n];
  }
  return samples.map((sample) => Math.max(-1, Math.min(1, sample)));
}

function wav(samples) {
  const view = new DataView(new ArrayBuffer(44 + 2 * samples.length));
  const text = (at, words) => [...words].forEach((letter, n) => view.setUint8(at + n, letter.charCodeAt(0)));
  text(0, "RIFF");
  view.setUint32(4, 36 + 2 * samples.length, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true); // PCM
  view.setUint16(22, 1, true); // mono
  view.setUint32(24, RATE_HZ, true);
  view.setUint32(28, 2 * RATE_HZ, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, 2 * samples.length, true);
  samples.forEach((sample, n) => view.setInt16(44 + 2 * n, sample * 32_767, true));
  return new Blob([view], { type: "audio/wav" });
}

async function burstSound() {
  const answer = await fetch(document.getElementById("listen").dataset.burst);
  if (!answer.ok) throw new Error(`the burst did not come: ${answer.status}`);
  return sound((await answer.json()).result.frame_times_s);
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
  const { source, context, frame } = playing;
  playing = undefined;
  cancelAnimationFrame(frame);
  source.onended = null;
  source.stop();
  context.close();
  document.getElementById("playhead")?.setAttribute("visibility", "hidden");
  const button = document.getElementById("listen");
  if (button) button.textContent = "Listen";
}

async function listen(button) {
  const samples = await burstSound();
  const context = new AudioContext();
  const buffer = context.createBuffer(1, samples.length, RATE_HZ);
  buffer.copyToChannel(samples, 0);
  const source = new AudioBufferSourceNode(context, { buffer });
  source.connect(context.destination);
  source.onended = stop;
  source.start();
  playing = { source, context };
  button.textContent = "Stop";
  if (!matchMedia("(prefers-reduced-motion: reduce)").matches) follow(context.currentTime);
}

document.addEventListener("click", async (event) => {
  const button = event.target.closest("#listen");
  if (button && playing) stop();
  else if (button) await listen(button);
  else if (event.target.closest("#save-wav")) save(wav(await burstSound()), "burst.wav");
});
document.addEventListener("htmx:beforeSwap", stop);
reveal("listen", "save-wav");
