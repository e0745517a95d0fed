// What the visitor has unfolded stays so when htmx puts a part of the page anew.
let unfolded = [];

document.addEventListener("htmx:beforeSwap", () => {
  unfolded = [...document.querySelectorAll("details[id][open]")].map((fold) => fold.id);
});

document.addEventListener("htmx:afterSwap", () => {
  for (const id of unfolded) document.getElementById(id)?.setAttribute("open", "");
});
