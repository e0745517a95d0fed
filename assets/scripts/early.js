// What was chosen before htmx had come is asked for as soon as it has.
function changed(field) {
  if (!field.matches("select")) return field.value !== field.defaultValue || field.checked !== field.defaultChecked;
  const options = [...field.options];
  const sent = options.findLast((option) => option.defaultSelected) ?? options[0];
  return sent !== field.selectedOptions[0];
}

document.addEventListener(
  "htmx:load",
  () => {
    for (const form of document.querySelectorAll("form[hx-get]")) {
      const fields = [...form.elements].filter((field) => field.matches("input:not([type=hidden]), select"));
      fields.find(changed)?.dispatchEvent(new Event("change", { bubbles: true }));
    }
  },
  { once: true },
);
