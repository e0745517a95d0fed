// What several scripts need.

// Shows buttons that need script, on the first page and after every swap.
export function reveal(selector) {
  const show = () => {
    for (const button of document.querySelectorAll(selector)) button.hidden = false;
  };
  show();
  document.addEventListener("htmx:afterSwap", show);
  document.addEventListener("htmx:historyRestore", show);
}

// Hands a file made in the page to the browser to save.
export function save(blob, name) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
