// Of several tabs the one that is looked at is in view: the menu follows its set-up, not the one of
// the tab that was changed last.
addEventListener("visibilitychange", () => {
  const { href, search } = location;
  if (document.visibilityState !== "visible" || !new URLSearchParams(search).has("body")) return;
  fetch(href, { method: "HEAD" }).catch(() => {}); // without network there is no menu to follow
});
