// Records the microphone into a WAV file, puts it into the form, and sends that.
import { wav } from "./wav.js";

const part = document.querySelector("[data-record]");
const key = document.querySelector("[data-record-key]");
const told = document.querySelector("[data-record-told]");
const form = document.getElementById("sound-form");
const input = form.elements.sound;

const RATE_HZ = 48000;
const LONGEST_S = 240;

let recording = null;

part.hidden = false;

async function begin() {
  // What makes speech clearer takes clicks for noise.
  const audio = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
  const stream = await navigator.mediaDevices.getUserMedia({ audio });
  const context = new AudioContext({ sampleRate: RATE_HZ });
  await context.audioWorklet.addModule(part.dataset.worklet);
  const node = new AudioWorkletNode(context, "recorder", { numberOfOutputs: 0 });
  const pieces = [];
  const began = performance.now();
  node.port.onmessage = ({ data }) => pieces.push(data);
  context.createMediaStreamSource(stream).connect(node);
  const clock = setInterval(() => {
    const seconds = Math.round((performance.now() - began) / 1000);
    told.textContent = `Recording, ${seconds} s.`;
    if (seconds >= LONGEST_S) finish();
  }, 250);
  recording = { stream, context, pieces, clock };
  key.textContent = "Stop, and look through it";
}

async function finish() {
  const { stream, context, pieces, clock } = recording;
  recording = null;
  clearInterval(clock);
  stream.getTracks().forEach((track) => track.stop());
  await context.close();
  const files = new DataTransfer();
  files.items.add(new File([wav(pieces, context.sampleRate)], "recording.wav", { type: "audio/wav" }));
  input.files = files.files;
  send();
}

function send() {
  key.disabled = true;
  told.textContent = "The recording is being looked through …";
  form.requestSubmit();
}

function fault(error) {
  if (error.name === "NotAllowedError") {
    return "The browser may not use the microphone: allow it beside the address, or load a recording.";
  }
  if (error.name === "NotFoundError") return "There is no microphone: load a recording.";
  return "Recording is not possible here: load a recording.";
}

key.addEventListener("click", async () => {
  if (recording) {
    finish();
    return;
  }
  key.disabled = true;
  try {
    await begin();
  } catch (error) {
    told.textContent = fault(error);
  } finally {
    key.disabled = false;
  }
});

input.addEventListener("change", () => {
  const [file] = input.files;
  const most = Number(input.dataset.most);
  if (file && file.size > most) {
    told.textContent = `The file has more than ${most / 1e6} MB: cut out the burst, or save it as FLAC or MP3.`;
    input.value = "";
  } else if (file) {
    send();
  }
});
