// What is tapped in the field waits on the phone until it is sent, each once: the note keeps its key.

const MOST_AT_ONCE = 200; // as outings/field_notes.py
const AGAIN_MS = 20_000;
const QUEUE = "field-notes-";
const SAYS = { burst: "burst", swap: "swap", failure: "card failed", note: "" };

const page = document.querySelector("[data-field-log]");
const told = document.querySelector("[data-log-told]");
const waiting = document.querySelector("[data-waiting]");

function notesOf(outing) {
  return JSON.parse(localStorage.getItem(QUEUE + outing) || "[]");
}

// Throws where the browser keeps nothing more: then the form is sent as without script.
function keepNotes(outing, notes) {
  if (notes.length) localStorage.setItem(QUEUE + outing, JSON.stringify(notes));
  else localStorage.removeItem(QUEUE + outing);
}

function newKey() {
  const bytes = crypto.getRandomValues(new Uint8Array(16)); // randomUUID asks for https
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}

// Seconds by the clock on the wall, as cameras write them.
function now() {
  const moment = new Date();
  return moment.getTime() / 1000 - 60 * moment.getTimezoneOffset();
}

function clock(seconds) {
  return new Date(1000 * seconds).toISOString().slice(11, 16);
}

function tell(words) {
  told.textContent = words;
  told.hidden = !words;
}

function show() {
  const notes = notesOf(page.dataset.fieldLog);
  waiting.replaceChildren(...notes.toReversed().map((note) => {
    const item = document.createElement("li");
    const time = document.createElement("time");
    time.textContent = clock(note.at_s);
    const words = [SAYS[note.kind], note.named, note.words].filter(Boolean).join(" ");
    const state = note.refused ? note.refused.join(" ") : "waits on this phone";
    const back = document.createElement("button");
    back.type = "button";
    back.className = "link-button";
    back.dataset.back = note.key;
    back.textContent = "Take back";
    item.append(time, ` ${words} – ${state} `, back);
    return item;
  }));
}

const WHY = {
  403: "Sign in again, and open this page anew: what you tapped stays on this phone until then.",
  404: "This outing is not yours, or has been deleted: what you tapped stays on this phone.",
  429: "That is very much at once: what you tapped stays on this phone, and is sent later.",
};

async function post(outing, notes) {
  const token = document.querySelector("[name=csrfmiddlewaretoken]").value;
  const sent = notes.map(({ key, kind, at_s, slot, card, words }) => ({ key, kind, at_s, slot, card, words }));
  const address = page.querySelector("form").action;
  return fetch(address, {
    method: "POST",
    headers: { "X-CSRFToken": token },
    body: new URLSearchParams({ notes: JSON.stringify(sent) }),
  });
}

let sending = false;
async function send() {
  const outing = page.dataset.fieldLog;
  const some = notesOf(outing).filter((note) => !note.refused).slice(0, MOST_AT_ONCE);
  if (sending || !some.length) return;
  sending = true;
  let response = null;
  try {
    response = await post(outing, some);
    if (response.ok) await received(outing, await response.json());
    else tell(WHY[response.status] || "The site is in trouble: what you tapped stays on this phone, and is sent later.");
  } catch {
    tell("No network: what you tapped waits on this phone, and is sent when there is one.");
  } finally {
    sending = false;
  }
  if (response?.ok) await send(); // what was tapped meanwhile
}

async function received(outing, { kept, refused, said }) {
  const left = notesOf(outing).filter((note) => !kept.includes(note.key));
  keepNotes(outing, left.map((note) => (refused[note.key] ? { ...note, refused: refused[note.key] } : note)));
  tell(said.join(" "));
  show();
  await window.htmx.ajax("GET", location.pathname, { target: "#noted", swap: "outerHTML" });
}

// Without halves of characters, for which the site would refuse all that is sent.
function whole(words) {
  return words.toWellFormed ? words.toWellFormed() : words;
}

function noteOf(form, button) {
  const fields = new FormData(form);
  const select = form.elements.card;
  return {
    key: newKey(), kind: button.value, at_s: now(),
    slot: fields.get("slot") || "1", card: fields.get("card") || "", words: whole(fields.get("words") || ""),
    named: select?.value ? select.selectedOptions[0].text : "",
  };
}

function tapped(event) {
  const form = event.target.closest("[data-note]");
  if (!form) return;
  try {
    keepNotes(page.dataset.fieldLog, [...notesOf(page.dataset.fieldLog), noteOf(form, event.submitter)]);
  } catch {
    return;
  }
  event.preventDefault();
  form.reset();
  show();
  send();
}

function takeBack(event) {
  const { back } = event.target.dataset;
  if (!back) return;
  keepNotes(page.dataset.fieldLog, notesOf(page.dataset.fieldLog).filter((note) => note.key !== back));
  show();
}

if (page) {
  document.addEventListener("submit", tapped);
  waiting.addEventListener("click", takeBack);
  window.addEventListener("online", send);
  setInterval(send, AGAIN_MS);
  show();
  send();
}

for (const line of document.querySelectorAll("[data-waits]")) {
  const { length } = notesOf(line.dataset.waits);
  line.hidden = !length;
  line.textContent = `${length} note${length === 1 ? "" : "s"} on this phone, not sent yet: open its field log. `;
}
