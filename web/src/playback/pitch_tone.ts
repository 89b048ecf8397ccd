/** A soft tone at a pitch, so that an ear can find a key. */

const LENGTH_S = 0.9;
const ATTACK_S = 0.02;
/** Level of the sine and its two partials. */
const PARTIALS = [0.16, 0.05, 0.02];

let context: AudioContext | null = null;

/** Sound a pitch once; must be called from a click or key press the first time. */
export async function soundPitch(hz: number): Promise<void> {
  context ??= new AudioContext({ latencyHint: "interactive" });
  await context.resume();
  const now = context.currentTime + 0.01;
  const output = context.createGain();
  output.gain.setValueAtTime(0, now);
  output.gain.linearRampToValueAtTime(1, now + ATTACK_S);
  output.gain.setTargetAtTime(0, now + ATTACK_S, LENGTH_S / 4);
  output.connect(context.destination);
  PARTIALS.forEach((level, i) => {
    const oscillator = new OscillatorNode(context!, { frequency: hz * (i + 1) });
    const gain = new GainNode(context!, { gain: level });
    oscillator.connect(gain).connect(output);
    oscillator.start(now);
    oscillator.stop(now + LENGTH_S);
    if (i === 0) oscillator.onended = () => output.disconnect();
  });
}
