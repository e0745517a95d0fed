// What the visitor has unfolded stays so when htmx puts a part of the page anew. On a phone the
// sentence of a set-up is one line until it is to be changed, so that the answer comes first.
const FOLDED = "sentence-folded"; // a class of the root: swaps leave that alone
const root = document.documentElement;
let unfolded = [];

document.addEventListener("htmx:beforeSwap", () => {
  unfolded = [...document.querySelectorAll("details[id][open]")].map((fold) => fold.id);
});

document.addEventListener("htmx:afterSwap", () => {
  for (const id of unfolded) document.getElementById(id)?.setAttribute("open", "");
  fold(root.classList.contains(FOLDED));
});

function fold(folded) {
  root.classList.toggle(FOLDED, folded);
  for (const button of document.querySelectorAll("[data-unfold]")) button.setAttribute("aria-expanded", String(!folded));
}

document.addEventListener("click", ({ target }) => {
  if (target.closest("[data-unfold]")) fold(!root.classList.contains(FOLDED));
});
fold(root.classList.contains(FOLDED));
