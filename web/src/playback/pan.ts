/** Where a track is heard between left and right; the same factors as in a mix that is printed. */

/** Factors for left and right: equal power for one channel, 1 in the middle; of two the far side is lowered. */
export function panGains(pan: number, channels: number): [number, number] {
  if (channels === 1) {
    const angle = ((pan + 1) * Math.PI) / 4;
    return [Math.SQRT2 * Math.cos(angle), Math.SQRT2 * Math.sin(angle)];
  }
  return [Math.cos((Math.max(pan, 0) * Math.PI) / 2), Math.cos((Math.min(pan, 0) * Math.PI) / 2)];
}

/** What a track of so many channels plays into to be heard there. */
export function placeAt(context: BaseAudioContext, pan: number, channels: number): AudioNode {
  if (pan === 0) return context.destination;
  const both = context.createChannelMerger(2);
  both.connect(context.destination);
  const input = channels === 1 ? context.createGain() : context.createChannelSplitter(2);
  panGains(pan, channels).forEach((factor, side) => {
    const gain = context.createGain();
    gain.gain.value = factor;
    input.connect(gain, channels === 1 ? 0 : side);
    gain.connect(both, 0, side);
  });
  return input;
}
