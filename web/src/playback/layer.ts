/** One sounding track: blocks of samples laid end to end, each blending into the next. */

import type { TrackOut } from "../document/track/model";
import { songToTrack, timesOf, trackToSong } from "../document/time/times";

export const BLOCK_S = 0.25;
/** Neighbouring blocks overlap by this long; their ramps add up to one. */
export const BLEND_S = 0.008;
const MOST_BYTES = 40e6; // of samples: almost two minutes of a stereo track, 19 s of twelve mono ones

/** What of a track sounds: its kind of sound, and the step or preview it is of ("" for the recording itself). */
export interface Source {
  kind: "sung" | "tuned" | "difference" | "air" | "notes" | "melody";
  at: string;
}

/** Loads frames [begin, end); `ahead`: nobody waits for them yet. */
export type LoadSamples = (
  trackId: string,
  source: Source,
  begin: number,
  end: number,
  ahead: boolean,
) => Promise<ArrayBuffer>;

interface Scheduled {
  source: AudioBufferSourceNode;
  gain: GainNode;
  start: number;
  end: number;
}

export function sameSource(a: Source, b: Source): boolean {
  return a.kind === b.kind && a.at === b.at;
}

/** Samples that were asked for; of use to somebody who waits unless they come ahead, after all that is waited for. */
interface Asked {
  audio: Promise<AudioBuffer>;
  buffer: AudioBuffer | null;
  state: "waited for" | "ahead" | "here" | "failed";
}

interface Block {
  trackId: string;
  source: Source;
  index: number;
  asked: Asked;
  bytes: number;
}

/** Frames [first, last), or as far as there are any, of samples that came channel after channel. */
function bufferOf(samples: Float32Array<ArrayBuffer>, track: TrackOut, first: number, last: number): AudioBuffer {
  const whole = samples.length / track.channels;
  const length = Math.max(0, Math.min(last, whole) - first);
  const buffer = new AudioBuffer({
    numberOfChannels: track.channels,
    length: Math.max(1, length),
    sampleRate: track.sample_rate,
  });
  for (let c = 0; c < track.channels; c++) {
    const begin = c * whole + first;
    buffer.copyToChannel(samples.subarray(begin, begin + length), c);
  }
  return buffer;
}

/** Loads and remembers blocks by step; the ones used longest ago go first when there are too many. */
export class BlockStore {
  private readonly known = new Map<string, Block>();
  private held = 0;

  constructor(private readonly load: LoadSamples) {}

  private key(trackId: string, source: Source, index: number): string {
    return `${trackId}:${source.kind}:${source.at}:${index}`;
  }

  /** A block, loaded when it is not there. */
  get(track: TrackOut, source: Source, index: number): Promise<AudioBuffer> {
    return this.used(track, source, index, false) ?? this.fetch(track, source, index, 1, false)[0]!;
  }

  /** A block that is there already. */
  here(track: TrackOut, source: Source, index: number): AudioBuffer | null {
    return this.asked(track, source, index, false)?.buffer ?? null;
  }

  /** Whether all that sounds from `song_s` on for `length_s` seconds is there already. */
  isHere(track: TrackOut, source: Source, song_s: number, length_s: number): boolean {
    return pieces(track, song_s, song_s + length_s).every((piece) => this.here(track, source, piece.index));
  }

  private used(track: TrackOut, source: Source, index: number, ahead: boolean): Promise<AudioBuffer> | undefined {
    return this.asked(track, source, index, ahead)?.audio;
  }

  private asked(track: TrackOut, source: Source, index: number, ahead: boolean): Asked | undefined {
    const key = this.key(track.id, source, index);
    const block = this.known.get(key);
    if (!block || block.asked.state === "failed" || (block.asked.state === "ahead" && !ahead)) return undefined;
    this.known.delete(key);
    this.known.set(key, block);
    return block.asked;
  }

  private keep(block: Block): void {
    const key = this.key(block.trackId, block.source, block.index);
    this.forget(key);
    this.known.set(key, block);
    this.held += block.bytes;
    for (const oldest of this.known.keys()) {
      if (this.held <= MOST_BYTES || oldest === key) break;
      this.forget(oldest);
    }
  }

  private forget(key: string): void {
    this.held -= this.known.get(key)?.bytes ?? 0;
    this.known.delete(key);
  }

  /** Load `count` blocks from `first` on in one request. */
  private fetch(track: TrackOut, source: Source, first: number, count: number, ahead: boolean): Promise<AudioBuffer>[] {
    const endOf = (block: number): number =>
      Math.min(track.frames, Math.round(((block + 1) * BLOCK_S + BLEND_S) * track.sample_rate));
    const begin = blockFrame(track, first);
    const loaded = this.load(track.id, source, begin, endOf(first + count - 1), ahead);
    return Array.from({ length: count }, (_, i) => {
      const index = first + i;
      const audio = loaded.then((bytes) =>
        bufferOf(new Float32Array(bytes), track, blockFrame(track, index) - begin, endOf(index) - begin),
      );
      const asked: Asked = { audio, buffer: null, state: ahead ? "ahead" : "waited for" };
      const bytes = BLOCK_S * track.sample_rate * track.channels * 4;
      this.keep({ trackId: track.id, source, index, asked, bytes });
      audio.then(
        (buffer) => Object.assign(asked, { buffer, state: "here" }),
        () => (asked.state = "failed"),
      );
      return audio;
    });
  }

  /** Load what sounds of a track from `song_s` on for `length_s` seconds; what is missing in a row comes together. */
  async prepare(track: TrackOut, source: Source, song_s: number, length_s: number, ahead: boolean): Promise<void> {
    const indexes = [...new Set(pieces(track, song_s, song_s + length_s).map((piece) => piece.index))];
    const coming: Promise<AudioBuffer>[] = [];
    let row: number[] = [];
    const load = (): void => {
      if (row.length > 0) coming.push(...this.fetch(track, source, row[0]!, row.length, ahead));
      row = [];
    };
    for (const index of indexes) {
      const there = this.used(track, source, index, ahead);
      if (there || index !== row.at(-1)! + 1) load();
      if (there) coming.push(there);
      else row.push(index);
    }
    load();
    await Promise.all(coming);
  }

  /** A step sounds like another one outside some spans (seconds of the recording): those blocks need no loading. */
  derive(trackId: string, from: string, to: string, spans: readonly { start_s: number; end_s: number }[]): void {
    for (const block of [...this.known.values()]) {
      const { kind, at } = block.source;
      if (block.trackId !== trackId || at !== from || kind === "sung") continue;
      const start = block.index * BLOCK_S;
      if (spans.some((span) => start < span.end_s && start + BLOCK_S + BLEND_S > span.start_s)) continue;
      const source = { kind, at: to };
      if (!this.known.has(this.key(trackId, source, block.index))) this.keep({ ...block, source, bytes: 0 });
    }
  }
}

/** Frame of the recording that a block begins with. */
function blockFrame(track: TrackOut, index: number): number {
  return Math.round(index * BLOCK_S * track.sample_rate);
}

/** Part of a block that sounds over song time [at, end). */
interface Piece {
  index: number;
  at: number;
  end: number;
}

function pieces(track: TrackOut, from: number, to: number): Piece[] {
  const times = timesOf(track);
  const found = [];
  let at = Math.max(from, trackToSong(0, times));
  const last = Math.min(to, trackToSong(track.duration_s, times));
  while (at < last - 1e-9) {
    const index = Math.floor(songToTrack(at, times) / BLOCK_S + 1e-9);
    const end = Math.min(last, trackToSong((index + 1) * BLOCK_S, times));
    found.push({ index, at, end });
    at = end;
  }
  return found;
}

export class Layer {
  private sounding: Scheduled[] = [];
  readonly output: GainNode;
  /** where it is heard between left and right */
  pan = 0;

  constructor(
    private readonly context: BaseAudioContext,
    private readonly blocks: BlockStore,
    readonly track: TrackOut,
    public source: Source,
    destination: AudioNode,
    /** what it is known by among those that sound */
    readonly name: string,
  ) {
    this.output = context.createGain();
    this.output.connect(destination);
  }

  /** Load what sounds from `song_s` on for `length_s` seconds. */
  prepare(song_s: number, length_s: number, ahead = false): Promise<void> {
    return this.blocks.prepare(this.track, this.source, song_s, length_s, ahead);
  }

  /** Song time at which the block that sounds at `song_s` ends. */
  blockEnd(song_s: number): number {
    return pieces(this.track, song_s, song_s + BLOCK_S)[0]?.end ?? song_s + BLOCK_S;
  }

  /**
   * Schedule song time [from, to) so that `from` sounds at context time `at`.  Everything begins on whole samples, all
   * off by the same: what begins between two would be interpolated, and lose its highest part.
   */
  async schedule(from: number, to: number, at: number): Promise<void> {
    const { source, track } = this;
    const rate = track.sample_rate;
    const whole = (seconds: number): number => Math.round(seconds * rate + 1e-3); // no flutter where it is a half
    const ahead = whole(songToTrack(from, timesOf(track)) - at);
    for (const piece of pieces(track, from, to)) {
      // what is there is laid at once, before the page draws what was pressed
      const buffer =
        this.blocks.here(track, source, piece.index) ?? (await this.blocks.get(track, source, piece.index));
      if (!sameSource(source, this.source)) return;
      const first = Math.max(whole(at + piece.at - from), blockFrame(track, piece.index) - ahead);
      const last = whole(at + piece.end - from);
      if (first >= last) continue;
      const offset = first + ahead - blockFrame(track, piece.index);
      this.place(buffer, offset / rate, first / rate, last / rate);
    }
  }

  /** Fade out everything that sounds at or after context time `at`, but for what begins at or after `until`. */
  silence(at: number, until = Infinity): void {
    const stays = (item: Scheduled): boolean => item.end <= at || item.start >= until - 1e-4;
    for (const item of this.sounding) {
      if (stays(item)) continue;
      if (item.start >= at) {
        item.source.stop(0);
      } else {
        item.gain.gain.cancelScheduledValues(at);
        item.gain.gain.setValueAtTime(1, at);
        item.gain.gain.linearRampToValueAtTime(0, at + BLEND_S);
        item.source.stop(at + BLEND_S);
      }
    }
    this.sounding = this.sounding.filter((item) => stays(item) || item.start < at);
  }

  close(): void {
    for (const item of this.sounding) item.source.stop(0);
    this.output.disconnect();
  }

  private place(buffer: AudioBuffer, offset: number, when: number, end: number): void {
    let [start, skip] = [when, offset];
    if (start < this.context.currentTime) {
      skip += this.context.currentTime - start;
      start = this.context.currentTime;
      if (start >= end) return;
    }
    const source = this.context.createBufferSource();
    source.buffer = buffer;
    const gain = this.context.createGain();
    gain.gain.value = 0; // the source may begin on the sample just before `start`
    gain.gain.setValueAtTime(0, start);
    const full = start + BLEND_S;
    const peak = Math.min(1, (end - start) / BLEND_S); // so that all that sounds adds up to one
    gain.gain.linearRampToValueAtTime(peak, Math.min(end, full));
    gain.gain.setValueAtTime(peak, Math.max(end, full));
    gain.gain.linearRampToValueAtTime(0, end + BLEND_S);
    source.connect(gain).connect(this.output);
    source.start(start, skip);
    source.stop(end + BLEND_S);
    this.sounding.push({ source, gain, start, end: end + BLEND_S });
    source.onended = () => {
      this.sounding = this.sounding.filter((item) => item.source !== source);
      gain.disconnect();
    };
  }
}
