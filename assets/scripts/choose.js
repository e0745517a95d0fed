// Arrow keys go from card to card; one key takes the card in focus, or else the answer, along.
const LINKS = { d: "[data-to-desk]", v: "[data-to-compare]" };

const rows = () => [...document.querySelectorAll(".card-row[data-option]")];

function step(by) {
  const all = rows();
  const at = all.findIndex((row) => row.contains(document.activeElement));
  const next = at < 0 ? all[0] : all[at + by];
  next?.focus();
  return Boolean(next);
}

// Before the keys of every screen, which would follow the link of the answer.
document.addEventListener(
  "keydown",
  (event) => {
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    if (event.target.closest("input, select, textarea, dialog")) return;
    const row = document.activeElement.closest?.(".card-row[data-option]");
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by && (row || event.target === document.body) && step(by)) event.preventDefault();
    else if (row && LINKS[event.key]) row.querySelector(LINKS[event.key]).click();
    else if (row && event.key === "e") row.querySelector("[data-price]")?.select();
    else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  },
  true,
);
