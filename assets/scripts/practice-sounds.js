// What a run sounds like: a click a frame, as on the Desk, and a tone as the subject changes what it
// does, higher the nearer the moment, so that a run can be played by ear.
import { RATE_HZ, click } from "./sound.js";

const TONES_HZ = { waiting: 220, build_up: 440, lead: 660, moment: 990, after: 165 };
const TONE_S = 0.12;
const LOUDNESS = 0.12;

const buffers = new WeakMap(); // of each context

export function clickAt(context, at) {
  if (!buffers.has(context)) {
    const samples = click();
    const made = context.createBuffer(1, samples.length, RATE_HZ);
    made.copyToChannel(samples, 0);
    buffers.set(context, made);
  }
  const source = new AudioBufferSourceNode(context, { buffer: buffers.get(context) });
  source.connect(context.destination);
  source.start(at);
}

export function cueAt(context, kind) {
  const tone = new OscillatorNode(context, { frequency: TONES_HZ[kind] });
  const loudness = new GainNode(context, { gain: LOUDNESS });
  tone.connect(loudness).connect(context.destination);
  loudness.gain.setTargetAtTime(0, context.currentTime + TONE_S / 2, TONE_S / 6);
  tone.start();
  tone.stop(context.currentTime + TONE_S);
}
