// Arrow keys go from pair to pair; Enter follows the link of the pair, as links do.
const STEPS = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };

document.addEventListener("keydown", (event) => {
  const step = STEPS[event.key];
  const table = document.querySelector("[data-matrix]");
  if (!step || !table || event.altKey || event.ctrlKey || event.metaKey) return;
  if (event.target.closest("input, select, textarea")) return;
  const pairs = [...table.tBodies[0].rows].map((row) => [...row.querySelectorAll("[data-pair]")]);
  const down = pairs.findIndex((row) => row.includes(document.activeElement));
  const across = down < 0 ? -1 : pairs[down].indexOf(document.activeElement);
  const next = down < 0 ? pairs[0]?.[0] : pairs[down + step[0]]?.[across + step[1]];
  if (!next) return;
  next.focus();
  event.preventDefault();
});

// "v" pins the pair that has the focus.
document.addEventListener("keydown", (event) => {
  const { pin } = document.activeElement.dataset;
  if (event.key === "v" && pin && !event.altKey && !event.ctrlKey && !event.metaKey) location.assign(pin);
});

// A cue where the table goes on beyond the right edge.
const tell = () => {
  const frame = document.querySelector(".matrix-frame");
  const cue = document.querySelector("[data-cue]");
  if (frame && cue) cue.hidden = frame.scrollLeft + frame.clientWidth >= frame.scrollWidth - 4;
};
document.addEventListener("scroll", tell, true);
document.addEventListener("htmx:afterSwap", tell);
addEventListener("resize", tell);
tell();

// On paper a wide table goes on over several, each with its headings. Those are made for printing
// alone, so that Ctrl+P finds them as well as the button does.
const COLUMNS_ON_PAPER = 6;
addEventListener("beforeprint", () => {
  const frame = document.querySelector(".matrix-frame");
  const table = frame?.querySelector("table");
  const columns = table ? table.rows[0].cells.length - 1 : 0;
  if (columns <= COLUMNS_ON_PAPER) return;
  for (let from = 1; from <= columns; from += COLUMNS_ON_PAPER) {
    const part = table.cloneNode(true);
    part.classList.add("on-paper");
    part.removeAttribute("data-matrix");
    for (const row of part.rows) {
      [...row.cells].forEach((cell, place) => {
        if (place && (place < from || place >= from + COLUMNS_ON_PAPER)) cell.remove();
      });
    }
    frame.append(part);
  }
});
addEventListener("afterprint", () => document.querySelectorAll(".on-paper").forEach((one) => one.remove()));
