// The reaction time: presses at a key that lights up after a while that nobody can foresee.

const SHORTEST_MS = 1_200;
const MEAN_MS = 1_500; // beyond that, with a constant hazard
const LONGEST_MS = 6_000;

let tries = null;
let litAt = 0;
let timer = 0;

const wanted = () => Number(part("").dataset.tries);
const part = (name) => document.querySelector(`[data-reaction${name}]`);

function wait() {
  litAt = 0;
  const key = part("-key");
  key.classList.remove("lit");
  key.textContent = `Press as soon as this lights up: ${tries.length + 1} of ${wanted()}`;
  const more = Math.min(-MEAN_MS * Math.log(1 - Math.random()), LONGEST_MS);
  timer = setTimeout(() => {
    key.textContent = "Now";
    key.classList.add("lit");
    requestAnimationFrame(() => requestAnimationFrame((shown) => (litAt = shown)));
  }, SHORTEST_MS + more);
}

function begin() {
  tries = [];
  part("-begin").hidden = true;
  part("-key").hidden = false;
  part("-key").focus();
  wait();
}

function press(moment) {
  if (!tries) return;
  clearTimeout(timer);
  if (!litAt) {
    part("-told").textContent = "Too early: that one is tried again.";
    wait();
    return;
  }
  tries.push((moment - litAt) / 1000);
  part("-told").textContent = `${Math.round(1000 * tries.at(-1))} ms`;
  if (tries.length < wanted()) wait();
  else end();
}

function end() {
  const middle = [...tries].sort((one, other) => one - other)[Math.floor(tries.length / 2)];
  document.getElementById("practice-tries").value = JSON.stringify(tries.map((one) => Number(one.toFixed(4))));
  part("-told").textContent = `Your reaction time: ${middle.toFixed(2)} s. It is taken out of the score.`;
  part("-key").hidden = true;
  part("-begin").hidden = false;
  part("-begin").textContent = "Measure it again";
  tries = null;
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-reaction-begin]")) begin();
});
document.addEventListener("pointerdown", (event) => {
  if (event.target.closest("[data-reaction-key]")) press(event.timeStamp);
});
document.addEventListener(
  "keydown",
  (event) => {
    if (event.key !== " " || !tries) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (!event.repeat) press(event.timeStamp);
  },
  true,
);

function reveal() {
  if (part("")) part("").hidden = false;
}
document.addEventListener("htmx:afterSwap", reveal);
reveal();
