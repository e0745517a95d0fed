// The tap: one big key for press, slowing, finger up and light out; it fills in the form below.

const STEPS = [
  "Press the shutter, and tap here",
  "Tap when it slows",
  "Tap as you lift the finger",
  "Tap when the card light goes out",
  "Done: type the frames of the counter, and save",
];

let taps = [];
let slowed = true;
let awake = null;

const tap = () => document.querySelector("[data-tap]");
const setup = () => document.getElementById("bench-test").dataset;
const field = (name) => document.querySelector(`#run [name="${name}"]`);
const seconds = (from, to) => ((to - from) / 1000).toFixed(2);

function step() {
  // Without a slowing that step is left out.
  return taps.length + (!slowed && taps.length >= 2 ? 1 : 0);
}

function show() {
  const part = tap();
  part.hidden = field("method").value !== "tap";
  part.querySelector("[data-tap-key]").textContent = STEPS[step()];
  part.querySelector("[data-tap-even]").disabled = taps.length !== 1;
}

function framesUntilItSlowed() {
  if (!slowed || taps[1] === undefined) return "";
  return String(Math.floor(((taps[1] - taps[0]) / 1000) * Number(setup().fps)) + 1);
}

function fillDepth() {
  const frames = framesUntilItSlowed();
  field("frames_at_full_speed").value = frames;
  field("depth_is_tapped").value = frames ? "on" : "";
}

function fill() {
  const [press] = taps;
  const up = slowed ? taps[2] : taps[1];
  const out = slowed ? taps[3] : taps[2];
  if (!slowed || taps[1] !== undefined) {
    fillDepth();
  }
  field("did_not_slow").checked = !slowed;
  if (up !== undefined) field("hold_s").value = seconds(press, up);
  if (out !== undefined) field("clear_s").value = seconds(up, out);
  field("taps_s").value = JSON.stringify(taps.map((moment) => Number(seconds(press, moment))));
}

function note() {
  if (step() >= STEPS.length - 1) return;
  taps.push(performance.now());
  keepAwake();
  fill();
  show();
  if (step() === STEPS.length - 1) field("frames").focus();
}

function finishEven() {
  if (taps.length !== 1) return;
  slowed = false;
  note();
}

function startAgain() {
  taps = [];
  slowed = true;
  for (const name of ["frames_at_full_speed", "depth_is_tapped", "frames", "clear_s", "taps_s"]) field(name).value = "";
  field("did_not_slow").checked = false;
  show();
}

async function keepAwake() {
  // Where the browser may: a phone beside the camera must not go dark.
  try {
    if (!awake || awake.released) awake = await navigator.wakeLock?.request("screen");
  } catch {
    awake = null;
  }
}

document.addEventListener("pointerdown", (event) => {
  if (event.target.closest("[data-tap-key]")) note();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-tap-even]")) finishEven();
  if (event.target.closest("[data-tap-again]")) startAgain();
});
document.addEventListener(
  "keydown",
  (event) => {
    const typing = event.target.closest("input:not([type=checkbox]), select, textarea");
    if (tap().hidden || typing || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
    if (event.key === " ") note();
    else if (event.key === "n") finishEven();
    else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  },
  true,
);
document.addEventListener("input", (event) => {
  if (event.target.name === "hold_s") event.target.dataset.typed = "yes";
  if (event.target.name === "frames_at_full_speed") field("depth_is_tapped").value = "";
});
document.addEventListener("htmx:afterSwap", () => {
  // At another frame rate as many seconds are another count, unless it was typed since.
  if (taps.length && field("depth_is_tapped").value) fillDepth();
  // The hold of the sentence holds until another was tapped, typed or found.
  const hold = field("hold_s");
  if (!taps.length && !hold.dataset.typed && field("method").value === "tap") hold.value = setup().hold;
});
show();
