// Says so when the site does not answer, and that what is shown is older than the choices.
const notice = () => document.querySelector("[data-trouble]");

function say(sentence) {
  notice().textContent = sentence;
  notice().hidden = false;
}

document.addEventListener("htmx:sendError", () =>
  say("Ondata does not answer. What you see is the last answer; change anything to ask again."),
);
document.addEventListener("htmx:responseError", () =>
  say("Something broke on the way to an answer. What you see is the last one."),
);
document.addEventListener("htmx:afterSwap", () => {
  notice().hidden = true;
});
