// Sound as a WAV file: one channel, 16 bits; samples between -1 and 1 in pieces.

const HEADER_BYTES = 44;
const LARGEST = 0x7fff;

export function wav(pieces, rateHz) {
  const bytes = 2 * pieces.reduce((sum, piece) => sum + piece.length, 0);
  const view = new DataView(new ArrayBuffer(HEADER_BYTES + bytes));
  const text = (at, word) => [...word].forEach((letter, n) => view.setUint8(at + n, letter.charCodeAt(0)));
  text(0, "RIFF");
  view.setUint32(4, HEADER_BYTES - 8 + bytes, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true); // whole numbers
  view.setUint16(22, 1, true); // one channel
  view.setUint32(24, rateHz, true);
  view.setUint32(28, 2 * rateHz, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, bytes, true);
  let at = HEADER_BYTES;
  for (const piece of pieces) {
    for (const sample of piece) {
      view.setInt16(at, Math.max(-1, Math.min(1, sample)) * LARGEST, true);
      at += 2;
    }
  }
  return new Blob([view], { type: "audio/wav" });
}
