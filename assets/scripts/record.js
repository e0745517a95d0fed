// Records the microphone into a WAV file, puts it into the form, and sends that.
import { wav } from "./wav.js";

const part = document.querySelector("[data-record]");
const key = document.querySelector("[data-record-key]");
const told = document.querySelector("[data-record-told]");
const form = document.getElementById("sound-form");
const input = form.elements.sound;

const RATE_HZ = 48000;
const LONGEST_S = 240;
const LOST_S = 0.05; // about as far apart as frames are
const LOST_SHARE = 0.001; // clocks of sound cards and computers differ by less

let recording = null;

part.hidden = false;

async function begin() {
  const context = new AudioContext({ sampleRate: RATE_HZ });
  try {
    await context.audioWorklet.addModule(part.dataset.worklet);
    // What makes speech clearer takes clicks for noise.
    const audio = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
    record(context, await navigator.mediaDevices.getUserMedia({ audio }));
  } catch (error) {
    await context.close();
    throw error;
  }
}

function record(context, stream) {
  const node = new AudioWorkletNode(context, "recorder", { numberOfOutputs: 0 });
  const pieces = [];
  const arrivals = { first: 0, last: 0 };
  node.port.onmessage = ({ data }) => {
    pieces.push(data);
    arrivals.last = performance.now();
    arrivals.first ||= arrivals.last;
  };
  const began = performance.now();
  context.createMediaStreamSource(stream).connect(node);
  const clock = setInterval(() => {
    const seconds = Math.round((performance.now() - began) / 1000);
    told.textContent = `Recording, ${seconds} s.`;
    if (seconds >= LONGEST_S) finish();
  }, 250);
  recording = { stream, context, pieces, arrivals, clock };
  key.textContent = "Stop, and look through it";
}

async function finish() {
  const { stream, context, pieces, arrivals, clock } = recording;
  recording = null;
  clearInterval(clock);
  stream.getTracks().forEach((track) => track.stop());
  await context.close();
  const lost = lostSeconds(pieces, arrivals, context.sampleRate);
  if (lost) {
    key.textContent = "Record again";
    told.textContent = `The computer was busy and lost ${lost.toFixed(1)} s of the sound, so the times would be wrong. Close other programs and record again.`;
    return;
  }
  const files = new DataTransfer();
  files.items.add(new File([wav(pieces, context.sampleRate)], "recording.wav", { type: "audio/wav" }));
  input.files = files.files;
  send();
}

// What a busy computer leaves out makes the time between two clicks too short.
function lostSeconds(pieces, arrivals, rate) {
  const passed = (arrivals.last - arrivals.first) / 1000;
  const recorded = pieces.reduce((sum, piece) => sum + piece.length, 0) / rate;
  const lost = passed - recorded;
  return lost > LOST_S + LOST_SHARE * passed ? lost : 0;
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
