// A predicted burst as shutter clicks, made here from its frame times; nothing is recorded.
export const RATE_HZ = 22_050;
const LONGEST_S = 60; // of a longer burst, the first minute
const CLICK_S = 0.028;
const TAIL_S = 0.3;

// First and second curtain: two short falls of the same noise at every frame.
export function click() {
  const samples = new Float32Array(Math.round(CLICK_S * RATE_HZ));
  let noise = 1;
  for (let n = 0; n < samples.length; n += 1) {
    noise = (noise * 16_807) % 2_147_483_647; // the same at every click
    const since = n / RATE_HZ;
    const fall = Math.exp(-since / 0.002) + (since > 0.016 ? 0.7 * Math.exp(-(since - 0.016) / 0.003) : 0);
    samples[n] = 0.6 * fall * ((noise / 2_147_483_647) * 2 - 1);
  }
  return samples;
}

function sound(timesS) {
  const heard = timesS.filter((time) => time < LONGEST_S);
  const samples = new Float32Array(Math.ceil(((heard.at(-1) ?? 0) + TAIL_S) * RATE_HZ));
  const one = click();
  for (const time of heard) {
    const start = Math.round(time * RATE_HZ);
    for (let n = 0; n < one.length; n += 1) samples[start + n] += one[n];
  }
  return samples.map((sample) => Math.max(-1, Math.min(1, sample)));
}

// The sound of the burst at an address of burst.json.
export async function soundOf(address) {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error(`the burst did not come: ${answer.status}`);
  return sound((await answer.json()).result.frame_times_s);
}

// Plays samples, and calls `ended` when they end by themselves; returns what stops them.
export function play(samples, ended) {
  const context = new AudioContext();
  const buffer = context.createBuffer(1, samples.length, RATE_HZ);
  buffer.copyToChannel(samples, 0);
  const source = new AudioBufferSourceNode(context, { buffer });
  source.connect(context.destination);
  source.onended = ended;
  source.start();
  const stop = () => {
    source.onended = null;
    source.stop();
    context.close();
  };
  return { context, stop };
}
