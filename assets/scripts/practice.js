// A run of practice: shows what the subject does, takes the presses, and reports them. What the
// camera makes of them is asked of the server at every press; until it has answered, only those
// frames are shown that the buffer has room for whatever happens.
import { drawScene } from "./practice-scenes.js";
import { clickAt, cueAt } from "./practice-sounds.js";

const STOOD_STILL_MS = 1_000; // between two pictures: the page was in the background
const SHOWN_S = 6; // of strokes and presses behind now
const SENT_AGAIN_MS = 3_000;
const TRIGGERS = [0, 6, 7]; // buttons of a game pad that fire
const FULL = 1 + 1e-6;

let run = null; // the run that goes on
let sound = null;

const stage = () => document.querySelector("[data-practice]");
const part = (name) => document.querySelector(`[data-practice-${name}]`);
const reduced = matchMedia("(prefers-reduced-motion: reduce)");

function tell(words) {
  part("told").textContent = words;
}

function trouble(words) {
  part("trouble").textContent = words;
  part("trouble").hidden = !words;
}

async function ask(presses) {
  const said = presses.map(([down, up]) => `${down.toFixed(3)}-${up === null ? "" : up.toFixed(3)}`);
  const answer = await fetch(`${stage().dataset.at}?presses=${said.join(",")}`);
  if (!answer.ok) throw new Error(`no run came: ${answer.status}`);
  return answer.json();
}

async function start() {
  if (run) return;
  trouble("");
  run = { presses: [], waits: true };
  try {
    run = { ...run, ...(await ask([])), shown: [], heard: 0, next: 0, waits: false };
  } catch {
    run = null;
    trouble("The run can't begin: Ondata does not answer. Try again once there is a network.");
    return;
  }
  if (part("sound").checked) sound ??= new AudioContext();
  run.words = JSON.parse(stage().dataset.words);
  run.pad = padIsDown();
  show(true);
  part("key").focus({ preventScroll: true });
  part("canvas").scrollIntoView({ block: "nearest" });
  run.began = run.last = performance.now();
  run.frame = requestAnimationFrame(step);
}

function show(goesOn) {
  part("canvas").hidden = part("key").hidden = !goesOn;
  part("start").hidden = goesOn;
  document.querySelector("[data-practice-answer]")?.toggleAttribute("hidden", goesOn);
  document.querySelector(".practice-runs")?.toggleAttribute("hidden", goesOn);
}

function stop(words) {
  if (!run) return;
  cancelAnimationFrame(run.frame);
  run = null;
  show(false);
  trouble(words);
  part("start").focus();
}

const seconds = (moment) => (moment - run.began) / 1000;
const isDown = () => run.presses.length > 0 && run.presses.at(-1)[1] === null;

// The buffer's share in use at a moment, if nothing is taken after what is known.
function shareAt(moment) {
  let [, share] = run.memory[0];
  for (const [at, next] of run.memory) {
    if (at > moment) break;
    share = next;
  }
  return share;
}

function down(moment) {
  if (!run || run.waits || isDown()) return;
  const at = Math.max(0, seconds(moment));
  if (at >= run.ends_s) return;
  run.presses.push([at, null]);
  // Frames that there is room for even if nothing is written meanwhile.
  const room = Math.floor((FULL - shareAt(at)) / run.frame_share);
  run.sure = Array.from({ length: Math.max(0, room) }, (_, n) => at + n * run.interval_s);
  part("key").classList.add("down");
  refresh();
}

function up(moment) {
  if (!run || run.waits || !isDown()) return;
  const press = run.presses.at(-1);
  press[1] = Math.min(run.ends_s, Math.max(press[0], seconds(moment)));
  part("key").classList.remove("down");
  refresh();
}

// One question at a time, however quickly the presses come; then that of the latest.
async function refresh() {
  const mine = run;
  mine.isLate = true;
  if (mine.asks) return;
  mine.asks = true;
  while (mine.isLate) {
    mine.isLate = false;
    try {
      const { taken_s, memory, walls_s } = await ask(mine.presses);
      if (!mine.isLate) Object.assign(mine, { taken_s, memory, walls_s, sure: null });
    } catch {
      // What was pressed is reported at the end; till then the sure frames are shown.
    }
  }
  mine.asks = false;
}

// The strokes up to now: as the server told them, or while it is asked those that are sure.
function strokesUntil(now) {
  const last = run.presses.at(-1);
  const until = last && last[1] !== null ? Math.min(now, last[1]) : now;
  if (!run.sure) return run.taken_s.filter((moment) => moment <= now);
  const before = run.taken_s.filter((moment) => moment < last[0] && moment <= now);
  return [...before, ...run.sure.filter((moment) => moment <= until && (last[1] === null || moment < last[1]))];
}

function tellStage(now) {
  while (run.next < run.stages.length && run.stages[run.next][1] <= now) {
    const [kind] = run.stages[run.next];
    tell(kind === "waiting" && run.next ? run.words.again : run.words[kind]);
    if (sound && part("sound").checked) cueAt(sound, kind);
    run.next += 1;
  }
}

function hear() {
  if (sound && part("sound").checked) for (let n = run.heard; n < run.shown.length; n += 1) clickAt(sound, sound.currentTime);
  run.heard = Math.max(run.heard, run.shown.length);
}

function padIsDown() {
  const pads = navigator.getGamepads?.() ?? [];
  return [...pads].some((pad) => pad && TRIGGERS.some((button) => pad.buttons[button]?.pressed));
}

function readPad(moment) {
  const pressed = padIsDown();
  if (pressed && !run.pad) down(moment);
  if (!pressed && run.pad) up(moment);
  run.pad = pressed;
}

function step() {
  const moment = performance.now();
  if (moment - run.last > STOOD_STILL_MS) {
    stop("The page stood still for a while: the run stopped, and doesn't count.");
    return;
  }
  run.last = moment;
  readPad(moment);
  const now = seconds(moment);
  if (now >= run.ends_s) {
    end(now);
    return;
  }
  tellStage(now);
  run.shown = strokesUntil(now);
  hear();
  const canvas = part("canvas");
  canvas.dataset.strokes = run.shown.map((stroke) => stroke.toFixed(6)).join(" ");
  drawScene(canvas, {
    subject: stage().dataset.subject,
    stages: run.stages,
    ends: run.ends_s,
    now,
    still: reduced.matches,
    strokes: run.shown,
    presses: run.presses,
    walls: run.walls_s,
    raced: run.raced_s,
    from: Math.max(0, now - SHOWN_S),
    lasts: SHOWN_S,
    used: run.sure ? shareAt(now) + run.frame_share * (run.shown.length - strokesBefore(run.presses.at(-1)[0])) : shareAt(now),
    room: run.frame_share,
  });
  run.frame = requestAnimationFrame(step);
}

const strokesBefore = (moment) => run.taken_s.filter((stroke) => stroke < moment).length;

function end(now) {
  if (isDown()) run.presses.at(-1)[1] = run.ends_s;
  const form = document.getElementById("practice-run");
  form.elements.presses.value = JSON.stringify(run.presses.map((press) => press.map((moment) => Number(moment.toFixed(3)))));
  form.elements.lasted_s.value = now.toFixed(3);
  part("canvas").dataset.presses = form.elements.presses.value;
  tell("");
  part("key").classList.remove("down");
  run = null;
  form.requestSubmit();
}

const onKey = (event) => event.target.closest?.("[data-practice-key]");

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-practice-start]")) start();
});
document.addEventListener("pointerdown", (event) => {
  if (!onKey(event) && !event.target.closest?.("[data-practice-canvas]")) return;
  event.preventDefault();
  down(event.timeStamp);
});
for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, (event) => up(event.timeStamp));
document.addEventListener("contextmenu", (event) => {
  if (run && onKey(event)) event.preventDefault();
});
document.addEventListener(
  "keydown",
  (event) => {
    if (!run) return;
    if (event.key === "Escape") stop("You stopped the run: it doesn't count.");
    else if (event.key === " ") {
      if (!event.repeat) down(event.timeStamp);
    } else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  },
  true,
);
document.addEventListener(
  "keyup",
  (event) => {
    if (event.key !== " " || !run) return;
    event.preventDefault();
    up(event.timeStamp);
  },
  true,
);
for (const [target, kind] of [[window, "blur"], [document, "visibilitychange"]]) {
  target.addEventListener(kind, () => {
    if (kind === "blur" || document.hidden) stop("The page went to the background: the run stopped, and doesn't count.");
  });
}

function ready() {
  if (!stage()) return;
  stage().hidden = false;
  if (!window.PointerEvent) trouble("This browser tells nothing of fingers and mice: press Space.");
}
// The answer first: it is read out and scrolled to, and Enter plays the next run.
document.addEventListener("htmx:afterSwap", () => {
  ready();
  part("start")?.focus({ preventScroll: true });
  document.getElementById("practice-session").scrollIntoView({ block: "start" });
});
document.addEventListener("htmx:sendError", ({ target }) => {
  if (target.id !== "practice-run") return;
  trouble("There is no network: the run is sent as soon as there is one. Leave this page open.");
  setTimeout(() => target.isConnected && target.requestSubmit(), SENT_AGAIN_MS);
});
document.addEventListener("htmx:responseError", () => stage() && show(false));
ready();
