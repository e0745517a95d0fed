// Passes on what the microphone gives, one channel, in the thread of the sound itself.

class Recorder extends AudioWorkletProcessor {
  process([input]) {
    if (input.length) this.port.postMessage(input[0].slice());
    return true;
  }
}

registerProcessor("recorder", Recorder);
