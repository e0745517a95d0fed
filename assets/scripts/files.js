// Sends the first part and the size of each chosen file, batch by batch, and has the table of
// names, times and sizes that comes back searched for bursts.

const part = document.querySelector("[data-files]");
const told = document.querySelector("[data-files-told]");
const stop = document.querySelector("[data-files-stop]");
const on = document.querySelector("[data-files-on]");
const form = document.getElementById("table-form");
const TRIES = 3;
const MOST_TOLD = 5;

let stopped = false;
part.hidden = false;

async function send(files) {
  const body = new FormData();
  for (const file of files) {
    body.append("head", file.slice(0, Number(part.dataset.head)), file.name);
    body.append("size", String(file.size));
  }
  const token = form.querySelector("[name=csrfmiddlewaretoken]").value;
  for (let tries = 1; ; tries += 1) {
    try {
      const answer = await fetch(part.dataset.at, {
        method: "POST",
        body,
        headers: { "X-CSRFToken": token },
      });
      if (answer.ok) return await answer.json();
      throw new Error(String(answer.status));
    } catch (error) {
      if (tries === TRIES) throw error;
      await new Promise((resolve) => setTimeout(resolve, 1000 * tries));
    }
  }
}

async function read(files, from = 0, lines = [], refused = []) {
  const batch = Number(part.dataset.batch);
  stopped = false;
  stop.hidden = false;
  on.hidden = true;
  try {
    for (; from < files.length && !stopped; from += batch) {
      told.textContent = `${from} of ${files.length} files are read.`;
      const answer = await send(files.slice(from, from + batch));
      lines.push(...answer.lines);
      refused.push(...answer.refused);
    }
  } catch {
    told.textContent = `The connection was lost after ${from} of ${files.length} files; what was read is kept.`;
    on.hidden = false;
    on.onclick = () => read(files, from, lines, refused);
    return;
  } finally {
    stop.hidden = true;
  }
  if (stopped) {
    told.textContent = "Stopped; nothing is kept.";
  } else if (lines.length) {
    form.elements.table.value = lines.join("");
    form.elements.refused.value = refused.slice(0, MOST_TOLD).join("\n");
    form.requestSubmit(form.querySelector("[data-files-submit]"));
  } else {
    told.textContent = refused.slice(0, MOST_TOLD).join(" ") || "There is no file in it.";
  }
}

stop.addEventListener("click", () => {
  stopped = true;
});
for (const input of document.querySelectorAll("[data-files-input]")) {
  input.addEventListener("change", () => read([...input.files]));
}
