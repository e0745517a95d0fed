// The camera to practise with: while its button is down it clicks and its card light blinks, then
// the counter shows, and the light goes out when all is written.

const BLINK_MS = 150;
const CLICK_S = 0.004;

let taken = null; // moments of the frames of a long press
let press = null;
let sound = null;
let ended = 0; // timer of the light

const part = () => document.querySelector("[data-stand-in]");
const light = (on) => document.querySelector("[data-stand-in-light]").classList.toggle("lit", on);
const tell = (words) => (document.querySelector("[data-stand-in-told]").textContent = words);

async function load() {
  taken = null;
  if (!part()) return;
  part().hidden = false;
  const answer = await fetch(part().dataset.at);
  if (answer.ok) taken = (await answer.json()).taken_s;
}

function click(at) {
  const length = Math.round(CLICK_S * sound.sampleRate);
  const buffer = sound.createBuffer(1, length, sound.sampleRate);
  const samples = buffer.getChannelData(0);
  for (let n = 0; n < length; n += 1) samples[n] = (Math.random() * 2 - 1) * Math.exp((-6 * n) / length);
  const source = sound.createBufferSource();
  source.buffer = buffer;
  source.connect(sound.destination);
  source.start(at);
}

function begin() {
  if (press || !taken) return;
  clearInterval(ended);
  sound ??= new AudioContext();
  press = { at: performance.now(), next: 0 };
  tell("");
  press.timer = setInterval(() => {
    const heldS = (performance.now() - press.at) / 1000;
    // A little ahead, so that clicks come in time.
    while (taken[press.next] !== undefined && taken[press.next] < heldS + 0.05) {
      click(sound.currentTime + Math.max(0, taken[press.next] - heldS));
      press.next += 1;
    }
    light(Math.floor((heldS * 1000) / BLINK_MS) % 2 === 0);
  }, 20);
}

async function end() {
  if (!press) return;
  const { at, timer } = press;
  const heldS = (performance.now() - at) / 1000;
  press = null;
  clearInterval(timer);
  const answer = await fetch(`${part().dataset.at}&held=${heldS.toFixed(3)}`);
  if (!answer.ok) {
    tell("That was too short: hold it down.");
    light(false);
    return;
  }
  const burst = await answer.json();
  ended = setInterval(() => {
    const nowS = (performance.now() - at) / 1000;
    const writes = nowS < burst.light_out_s;
    light(writes && Math.floor((nowS * 1000) / BLINK_MS) % 2 === 0);
    if (writes) return;
    clearInterval(ended);
    tell(`off. The counter shows ${burst.frames} frames.`);
  }, 20);
}

const onKey = (event) => event.target.closest("[data-stand-in-key]");
const typing = (event) => event.target.closest("input, select, textarea, summary, a");

document.addEventListener("pointerdown", (event) => {
  if (onKey(event)) begin();
});
document.addEventListener("pointerup", end);
document.addEventListener("pointercancel", end);
document.addEventListener(
  "keydown",
  (event) => {
    if (event.key !== " " || typing(event) || !part()) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (!event.repeat) begin();
  },
  true,
);
document.addEventListener("keyup", (event) => {
  if (event.key === " ") end();
});
window.addEventListener("blur", end);
document.addEventListener("htmx:afterSwap", load);
load();
