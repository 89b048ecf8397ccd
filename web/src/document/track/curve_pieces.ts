/** Curves as the server sends them, and pieces of them laid into what is on screen. */

import type { EditedCurves } from "./model";

const BYTES_A_FRAME = 23;

/** Five curves of floats, then confidence, then the outline. */
export function unpacked(answer: ArrayBuffer): EditedCurves {
  const n = answer.byteLength / BYTES_A_FRAME;
  const floats = (i: number): Float32Array => new Float32Array(answer, 4 * n * i, n);
  return {
    tuned: floats(0),
    levelChange: floats(1),
    sung: floats(2),
    glaze: floats(3),
    level: floats(4),
    confidence: new Uint8Array(answer, 20 * n, n),
    waveform: new Int8Array(answer, 21 * n, 2 * n),
  };
}

function decoded(base64: string): ArrayBuffer {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes.buffer;
}

/** Copies of curves with what an answer brought laid in; an array that is on screen is never written to. */
export function withPieces(curves: EditedCurves, sent: readonly { first: number; data: string }[]): EditedCurves {
  const pieces = sent.map(({ first, data }) => ({ first, ...unpacked(decoded(data)) }));
  function laid<T extends { slice: () => T; set: (part: T, at: number) => void }>(
    part: (of: EditedCurves) => T,
    each = 1,
  ): T {
    if (pieces.length === 0) return part(curves);
    const whole = part(curves).slice();
    for (const piece of pieces) whole.set(part(piece), each * piece.first);
    return whole;
  }
  return {
    tuned: laid((of) => of.tuned),
    levelChange: laid((of) => of.levelChange),
    sung: laid((of) => of.sung),
    glaze: laid((of) => of.glaze),
    level: laid((of) => of.level),
    confidence: laid((of) => of.confidence),
    waveform: laid((of) => of.waveform, 2),
  };
}
