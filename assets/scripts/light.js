// The two lights. Runs before the page is painted, so that the hide sees no white flash.
// Follows the system until the photographer chooses otherwise.
(() => {
  const root = document.documentElement;
  const system = matchMedia("(prefers-color-scheme: dark)");
  const ofSystem = () => (system.matches ? "dark" : "light");

  function chosen() {
    try {
      return localStorage.getItem("light");
    } catch {
      return null; // storage may be forbidden: follow the system then
    }
  }

  function keep(light) {
    try {
      if (light === ofSystem()) localStorage.removeItem("light");
      else localStorage.setItem("light", light);
    } catch {
      // chosen for this page only
    }
  }

  function show(light) {
    root.dataset.bsTheme = light;
    for (const button of document.querySelectorAll("[data-switch-light]")) {
      button.textContent = light === "dark" ? "Light" : "Dark";
      button.title = light === "dark" ? "Bright, for sun (l)" : "Dark and dim, for a hide (l)";
      button.hidden = false;
    }
  }

  show(chosen() ?? ofSystem());
  document.addEventListener("DOMContentLoaded", () => show(root.dataset.bsTheme));
  system.addEventListener("change", () => show(chosen() ?? ofSystem()));
  document.addEventListener("htmx:historyRestore", () => show(root.dataset.bsTheme));
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-switch-light]")) return;
    const light = root.dataset.bsTheme === "dark" ? "light" : "dark";
    keep(light);
    show(light);
  });
})();
