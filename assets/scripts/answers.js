// Answers come late, and somebody goes on typing: an answer to an older question is dropped, and one
// that arrives leaves alone what has been touched since it was asked for. Until it is there, what is
// shown says what it answers ("data-older" unfolds it).
const FIELD = "input, select, textarea";
const STATE = new Set(["value", "checked", "selected"]);

let moments = 0; // counts what happens, in its order
const touchedAt = new WeakMap(); // field -> the moment of its last focus or key
const open = new Map(); // request -> { target, byHand, askedAt }
const late = new Map(); // list in use -> its options as they arrived
let arriving; // the question whose answer is being put in place

const inUse = (field) => field === document.activeElement || (touchedAt.get(field) ?? 0) > arriving.askedAt;

for (const kind of ["focusin", "input"]) {
  document.addEventListener(
    kind,
    ({ target }) => {
      if (target.matches?.(FIELD)) touchedAt.set(target, ++moments);
    },
    true,
  );
}

function markOlder({ target }) {
  const asks = target.form?.closest("[hx-target]") ?? target.closest?.("[hx-get][hx-target]");
  const part = asks?.getAttribute("hx-target");
  if (part?.startsWith("#")) document.querySelector(part)?.setAttribute("data-older", "");
}
document.addEventListener("input", markOlder);

document.addEventListener("htmx:beforeRequest", (event) => {
  const { xhr, target, requestConfig } = event.detail;
  const byHand = Boolean(requestConfig.triggeringEvent);
  for (const [older, question] of open) {
    if (!byHand && question.byHand && question.target.contains(target)) {
      event.preventDefault(); // what goes on by itself waits for what was asked
      return;
    }
    if (byHand ? target.contains(question.target) : target === question.target) older.abort();
  }
  open.set(xhr, { target, byHand, askedAt: ++moments });
  if (byHand && requestConfig.verb === "get") target.setAttribute("data-older", "");
});
document.addEventListener("htmx:afterRequest", ({ detail }) => open.delete(detail.xhr));

document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  if (!detail.shouldSwap) return;
  arriving = open.get(detail.xhr) ?? { askedAt: moments };
  for (const [other, { target }] of open) {
    if (other !== detail.xhr && target !== detail.target && detail.target.contains(target)) other.abort();
  }
});

const callbacks = {
  beforeAttributeUpdated: (name, element) => !(STATE.has(name) && element.matches(FIELD) && inUse(element)),
  beforeNodeMorphed(now, arrived) {
    const isList = now instanceof HTMLSelectElement;
    if (!(isList || now instanceof HTMLTextAreaElement) || !inUse(now)) return true;
    if (isList) late.set(now, arrived.cloneNode(true));
    return false;
  },
};

// Elements stay, and take on what is new (idiomorph): focus, caret and a drag are not interrupted.
htmx.defineExtension("morph", {
  isInlineSwap: (style) => style === "morph",
  handleSwap: (style, target, { children }) =>
    style === "morph" && Idiomorph.morph(target, children, { morphStyle: "outerHTML", callbacks }),
});

// A list that was in use takes what arrived for it when it is left, unless it was changed meanwhile:
// a newer answer brings its options then.
document.addEventListener("input", ({ target }) => late.delete(target));
document.addEventListener("focusout", ({ target }) => {
  const arrived = late.get(target);
  late.delete(target);
  if (arrived && target.isConnected) target.replaceChildren(...arrived.children);
});
