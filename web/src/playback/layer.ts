/** One sounding track: blocks of samples laid end to end, each blending into the next. */

import type { Listening, TrackOut } from "../document/model";

export const BLOCK_S = 1;
/** Neighbouring blocks overlap by this long; their ramps add up to one. */
export const BLEND_S = 0.008;

export type LoadSamples = (trackId: string, kind: Listening, begin: number, end: number) => Promise<ArrayBuffer>;

interface Scheduled {
  source: AudioBufferSourceNode;
  gain: GainNode;
  start: number;
  end: number;
}

/** Loads and remembers blocks; a block is dropped when an edit touches it. */
export class BlockStore {
  private readonly known = new Map<string, Promise<AudioBuffer>>();

  constructor(private readonly load: LoadSamples) {}

  private key(track: TrackOut, kind: Listening, index: number): string {
    return `${track.id}:${kind}:${index}`;
  }

  get(context: BaseAudioContext, track: TrackOut, kind: Listening, index: number): Promise<AudioBuffer> {
    const key = this.key(track, kind, index);
    let block = this.known.get(key);
    if (!block) {
      block = this.fetch(context, track, kind, index);
      this.known.set(key, block);
      block.catch(() => this.known.delete(key));
    }
    return block;
  }

  private async fetch(
    context: BaseAudioContext,
    track: TrackOut,
    kind: Listening,
    index: number,
  ): Promise<AudioBuffer> {
    const rate = track.sample_rate;
    const begin = Math.round(index * BLOCK_S * rate);
    const end = Math.min(track.frames, Math.round(((index + 1) * BLOCK_S + BLEND_S) * rate));
    const samples = new Float32Array(await this.load(track.id, kind, begin, end));
    const length = samples.length / track.channels;
    const buffer = context.createBuffer(track.channels, Math.max(1, length), rate);
    for (let c = 0; c < track.channels; c++) buffer.copyToChannel(samples.subarray(c * length, (c + 1) * length), c);
    return buffer;
  }

  /** Forget tuned and difference blocks that overlap [start, end) seconds of a track. */
  drop(trackId: string, start_s: number, end_s: number): void {
    for (const key of this.known.keys()) {
      const [id, kind, index] = key.split(":");
      const at = Number(index) * BLOCK_S;
      if (id === trackId && kind !== "sung" && at < end_s && at + BLOCK_S + BLEND_S > start_s) this.known.delete(key);
    }
  }
}

export class Layer {
  private sounding: Scheduled[] = [];
  readonly output: GainNode;

  constructor(
    private readonly context: BaseAudioContext,
    private readonly blocks: BlockStore,
    readonly track: TrackOut,
    public kind: Listening,
    destination: AudioNode,
  ) {
    this.output = context.createGain();
    this.output.connect(destination);
  }

  /** Load what sounds from `song_s` on for `length_s` seconds. */
  async prepare(song_s: number, length_s: number): Promise<void> {
    await Promise.all(
      this.pieces(song_s, song_s + length_s).map((p) => this.blocks.get(this.context, this.track, this.kind, p.index)),
    );
  }

  /** Schedule song time [from, to) so that `from` sounds at context time `at`. */
  async schedule(from: number, to: number, at: number): Promise<void> {
    const kind = this.kind;
    for (const piece of this.pieces(from, to)) {
      const buffer = await this.blocks.get(this.context, this.track, kind, piece.index);
      if (kind !== this.kind) return;
      this.place(buffer, piece.offset, piece.length, at + piece.at - from);
    }
  }

  /** Fade out everything that sounds at or after context time `at`. */
  silence(at: number): void {
    for (const item of this.sounding) {
      if (item.end <= at) continue;
      if (item.start >= at) {
        item.source.stop(0);
      } else {
        item.gain.gain.cancelScheduledValues(at);
        item.gain.gain.setValueAtTime(1, at);
        item.gain.gain.linearRampToValueAtTime(0, at + BLEND_S);
        item.source.stop(at + BLEND_S);
      }
    }
    this.sounding = this.sounding.filter((item) => item.end > at && item.start < at);
  }

  close(): void {
    for (const item of this.sounding) item.source.stop(0);
    this.output.disconnect();
  }

  private pieces(from: number, to: number): { index: number; offset: number; length: number; at: number }[] {
    const shift = this.track.offset_s;
    const found = [];
    let at = Math.max(from, shift);
    const last = Math.min(to, shift + this.track.duration_s);
    while (at < last - 1e-9) {
      const index = Math.floor((at - shift) / BLOCK_S + 1e-9);
      const next = Math.min(last, shift + (index + 1) * BLOCK_S);
      found.push({ index, offset: Math.max(0, at - shift - index * BLOCK_S), length: next - at, at });
      at = next;
    }
    return found;
  }

  private place(buffer: AudioBuffer, offset: number, length: number, when: number): void {
    let [start, skip] = [when, offset];
    if (start < this.context.currentTime) {
      skip += this.context.currentTime - start;
      start = this.context.currentTime;
      if (skip >= offset + length) return;
    }
    const end = when + length;
    const source = this.context.createBufferSource();
    source.buffer = buffer;
    const gain = this.context.createGain();
    gain.gain.setValueAtTime(0, start);
    gain.gain.linearRampToValueAtTime(1, start + BLEND_S);
    gain.gain.setValueAtTime(1, Math.max(end, start + BLEND_S));
    gain.gain.linearRampToValueAtTime(0, Math.max(end, start + BLEND_S) + BLEND_S);
    source.connect(gain).connect(this.output);
    source.start(start, skip);
    source.stop(Math.max(end, start + BLEND_S) + BLEND_S);
    this.sounding.push({ source, gain, start, end: end + BLEND_S });
    source.onended = () => {
      this.sounding = this.sounding.filter((item) => item.source !== source);
      gain.disconnect();
    };
  }
}
