/** Playing the song: position, loop, and what is heard. */

import type { TrackOut } from "../document/track/model";
import { placeAt } from "./pan";
import { Question } from "../document/question";
import { BLEND_S, BlockStore, Layer, type LoadSamples, sameSource, type Source } from "./layer";

const AHEAD_S = 0.7;
const LEAD_IN_S = 0.01;
const TICK_MS = 60;
/** How far ahead blocks are loaded, a few at once: many tracks come in time, and an edit's sound need not wait long. */
const LOAD_AHEAD_S = 6;
const AT_A_TIME = 3;
const STEP_S = 1;
const SWAP_DELAY_S = 0.01;
/** What an edit changes is loaded at once when it will sound before that has come. */
const SWAP_WITHIN_S = 0.12;
/** What is drawn waits so long for what is heard, and no longer. */
const LONG_MS = 60;
/** What must be loaded before sound begins or is exchanged. */
const AT_ONCE_S = 0.15;
/** Of many tracks more, as the next second of all of them takes its time. */
const MANY = 4;
const MANY_AT_ONCE_S = 2;

export interface Loop {
  start_s: number;
  end_s: number;
}

interface Segment {
  at: number;
  song_s: number;
  length: number;
}

export interface Part {
  track: TrackOut;
  source: Source;
  gain: number;
  /** −1 left to 1 right */
  pan?: number;
  /** what else of its track it is */
  as?: string;
}

/** A track may sound more than once: as itself, as its melody, and as voices that would be made of it. */
function nameOf({ track, source, as }: Part): string {
  return [track.id, ...(as ? [as] : source.kind === "melody" ? ["melody"] : [])].join(" ");
}

/** How many seconds of parts must be loaded before they begin together. */
function atOnceOf(parts: readonly Part[]): number {
  return parts.length > MANY ? MANY_AT_ONCE_S : AT_ONCE_S;
}

/** What a transport does: nothing, wait for the first sound, sound, or die away within some milliseconds. */
export type Phase = "idle" | "loading" | "playing" | "stopping";

const NEXT: Record<Phase, readonly Phase[]> = {
  idle: ["loading", "idle"],
  loading: ["playing", "idle"],
  playing: ["stopping"],
  stopping: ["loading", "idle"],
};
const DIES_AWAY_MS = 60;

/** Plays parts of the song together; all times are song seconds unless they say context. */
export class Transport {
  private context: AudioContext | null = null;
  private readonly blocks: BlockStore;
  private layers: Layer[] = [];
  private segments: Segment[] = [];
  private timer: number | undefined;
  private loading = false;
  private pump: Promise<void> = Promise.resolve();
  private laying = 0;
  private end_s = 0;
  private now: Phase = "idle";
  /** what was still loading for an earlier start does not begin any more */
  private readonly starting = new Question();
  private scheduled = { at: 0, song_s: 0 };
  loop: Loop | null = null;
  onEnd: () => void = () => undefined;
  onTrouble: (error: unknown) => void = () => undefined;

  constructor(load: LoadSamples) {
    this.blocks = new BlockStore(load);
  }

  get phase(): Phase {
    return this.now;
  }

  get playing(): boolean {
    return this.now === "playing";
  }

  private enter(next: Phase): void {
    if (!NEXT[this.now].includes(next)) throw new Error(`A transport that is ${this.now} cannot be ${next}.`);
    this.now = next;
  }

  /** The tracks that sound while it plays. */
  get sounding(): string[] {
    return this.playing ? this.layers.map((layer) => layer.track.id) : [];
  }

  /** Where playback is, in song seconds. */
  get position(): number {
    if (!this.context || this.segments.length === 0) return 0;
    const now = this.context.currentTime;
    const current = this.segments.findLast((s) => s.at <= now) ?? this.segments[0]!;
    return current.song_s + Math.max(0, Math.min(now - current.at, current.length));
  }

  /** Seconds until playing goes back to the start of the loop, or ends. */
  get untilTurn(): number {
    const { position } = this;
    const end = this.loop && position < this.loop.end_s ? this.loop.end_s : this.end_s;
    return Math.max(0.01, end - position);
  }

  /** Start from `from_s`; must be called from a click or key press the first time. */
  async play(parts: Part[], from_s: number, end_s: number): Promise<void> {
    this.stop();
    const rate = parts[0]?.track.sample_rate;
    if (!rate) return;
    this.enter("loading");
    const start = this.starting.ask();
    const calledOff = (): boolean => start.aborted;
    if (this.context?.sampleRate !== rate) {
      const before = this.context;
      this.context = new AudioContext({ sampleRate: rate, latencyHint: "interactive" });
      await before?.close();
    }
    if (calledOff()) return;
    this.end_s = end_s;
    this.setParts(parts);
    const context = this.context;
    const atOnce = (part: Part): boolean => this.blocks.isHere(part.track, part.source, from_s, atOnceOf(parts));
    // a context that runs answers to `resume` only when the page has come to rest
    if (context.state !== "running" || !parts.every(atOnce)) {
      await Promise.all([context.resume(), this.prepare(parts, from_s)]).catch((error: unknown) => {
        if (calledOff()) return;
        this.stop();
        throw error;
      });
      if (calledOff()) return;
    }
    this.enter("playing");
    this.scheduled = { at: context.currentTime + LEAD_IN_S, song_s: from_s };
    this.segments = [];
    this.timer = window.setInterval(() => this.tick(), TICK_MS);
    this.tick();
  }

  /** Load what would sound first if playing began at a place, or so many seconds from there. */
  async prepare(parts: readonly Part[], from_s: number, seconds = 0, ahead = false): Promise<void> {
    const length_s = Math.max(seconds, atOnceOf(parts));
    await Promise.all(parts.map((part) => this.blocks.prepare(part.track, part.source, from_s, length_s, ahead)));
  }

  /** Stop what sounds, or what is on its way to sound. */
  stop(): void {
    this.starting.callOff();
    const sounded = this.playing;
    if (sounded) this.enter("stopping");
    else if (this.now === "loading") this.enter("idle");
    window.clearInterval(this.timer);
    this.timer = undefined;
    const layers = this.layers;
    this.layers = [];
    if (this.context) for (const layer of layers) layer.silence(this.context.currentTime + 0.005);
    window.setTimeout(() => {
      layers.forEach((layer) => layer.close());
      if (sounded && this.now === "stopping") this.enter("idle");
    }, DIES_AWAY_MS);
  }

  /** Change what is heard; while playing, layers that change blend over. */
  setParts(parts: Part[]): void {
    if (!this.context) return;
    const now = this.context.currentTime;
    const stays = (layer: Layer): boolean =>
      parts.some((part) => nameOf(part) === layer.name && (part.pan ?? 0) === layer.pan);
    for (const layer of this.layers.filter((one) => !stays(one))) {
      layer.silence(now + 0.01);
      this.layers = this.layers.filter((l) => l !== layer);
    }
    for (const part of parts) {
      let layer = this.layers.find((l) => l.name === nameOf(part));
      if (!layer) {
        layer = new Layer(
          this.context,
          this.blocks,
          part.track,
          part.source,
          placeAt(this.context, part.pan ?? 0, part.track.channels),
          nameOf(part),
        );
        layer.output.gain.value = part.gain;
        layer.pan = part.pan ?? 0;
        this.layers.push(layer);
        if (this.playing) void this.swap(layer);
      } else {
        layer.output.gain.setTargetAtTime(part.gain, now, 0.015);
        if (!sameSource(layer.source, part.source)) {
          layer.source = part.source;
          if (this.playing) void this.swap(layer);
        }
      }
    }
  }

  /**
   * A track moved from one step (or preview) to another; what plays blends over where the two differ.
   * Resolves when the first of it is laid, or it takes long.
   */
  moved(trackId: string, from: string, to: string, spans: readonly Loop[]): Promise<void> {
    this.blocks.derive(trackId, from, to, spans);
    const laid = [];
    for (const layer of this.layers) {
      if (layer.track.id !== trackId || layer.source.at !== from) continue;
      layer.source = { ...layer.source, at: to };
      if (this.playing && spans.length > 0) laid.push(this.swap(layer));
    }
    const long = new Promise<void>((done) => laid.length > 0 && setTimeout(done, LONG_MS));
    return Promise.race([Promise.all(laid).then(() => undefined), long]);
  }

  /**
   * Replace what one layer has scheduled, from a moment from now on: first to the end of its block, then the rest.
   * Resolves after the first.
   */
  private swap(layer: Layer): Promise<void> {
    const source = layer.source;
    const over = (): boolean => !this.playing || !this.context || !sameSource(source, layer.source);
    return new Promise((laid) => {
      const all = async (): Promise<void> => {
        if (over()) return;
        const from_s = this.position;
        const end_s = layer.blockEnd(from_s + SWAP_WITHIN_S);
        await layer.prepare(from_s, end_s - from_s);
        if (over()) return;
        const now = this.context!.currentTime;
        const border = now + Math.max(0, end_s - this.position);
        await this.exchange(layer, now + SWAP_DELAY_S, border);
        laid();
        await layer.prepare(end_s, AHEAD_S);
        if (!over()) await this.exchange(layer, Math.max(border, this.context!.currentTime + SWAP_DELAY_S), Infinity);
      };
      void this.inTurn(() => all().catch(this.onTrouble).finally(laid));
    });
  }

  /** Lay a layer's sound over context time [at, until) anew. */
  private async exchange(layer: Layer, at: number, until: number): Promise<void> {
    layer.silence(at, until);
    for (const segment of this.segments) {
      const [from, to] = [Math.max(segment.at, at), Math.min(segment.at + segment.length, until)];
      if (to <= from) continue;
      await layer.schedule(segment.song_s + from - segment.at, segment.song_s + to - segment.at, from);
    }
  }

  /** One thing after the other is laid; what comes when nothing is under way begins at once. */
  private inTurn(lay: () => Promise<void>): Promise<void> {
    const begun = this.laying === 0 ? lay() : this.pump.then(lay);
    this.laying += 1;
    this.pump = begun.finally(() => (this.laying -= 1));
    return this.pump;
  }

  private tick(): void {
    void this.inTurn(() =>
      this.extend().catch((error: unknown) => {
        this.stop();
        this.onTrouble(error);
        this.onEnd();
      }),
    );
  }

  /** Load what will be scheduled soon, all tracks of one second before the next. */
  private async loadAhead(): Promise<void> {
    if (this.loading) return;
    this.loading = true;
    const turn = this.timer;
    const from_s = this.scheduled.song_s;
    const end_s = Math.min(this.loop && from_s < this.loop.end_s ? this.loop.end_s : this.end_s, from_s + LOAD_AHEAD_S);
    for (let at = from_s; at < end_s && this.timer === turn; at += STEP_S) {
      const waiting = [...this.layers];
      const some = async (): Promise<void> => {
        // what fails here fails again, and is said, when it is scheduled
        for (let layer = waiting.shift(); layer && this.timer === turn; layer = waiting.shift())
          await layer.prepare(at, STEP_S, true).catch(() => undefined);
      };
      await Promise.all(Array.from({ length: AT_A_TIME }, some));
    }
    this.loading = false;
  }

  private async extend(): Promise<void> {
    if (!this.context || !this.playing) return;
    const now = this.context.currentTime;
    this.segments = this.segments.filter((s, i) => s.at + s.length > now - 1 || i === this.segments.length - 1);
    // eslint-disable-next-line @typescript-eslint/no-unnecessary-condition -- stop() may have come while it waited
    while (this.playing && this.scheduled.at < now + AHEAD_S) {
      const loop = this.loop && this.scheduled.song_s < this.loop.end_s ? this.loop : null;
      const stop_s = loop ? loop.end_s : this.end_s;
      if (this.scheduled.song_s >= stop_s - 1e-6) {
        if (now > this.scheduled.at + BLEND_S) {
          this.stop();
          this.onEnd();
        }
        return;
      }
      const length = Math.min(0.5, stop_s - this.scheduled.song_s);
      const segment = { at: Math.max(this.scheduled.at, now + 0.005), song_s: this.scheduled.song_s, length };
      this.segments.push(segment);
      await Promise.all(this.layers.map((l) => l.schedule(segment.song_s, segment.song_s + length, segment.at)));
      const next = segment.song_s + length;
      this.scheduled = { at: segment.at + length, song_s: loop && next >= loop.end_s - 1e-6 ? loop.start_s : next };
      void this.loadAhead();
    }
  }

  /**
   * The samples that would be heard over [from, to), through the same layers and ramps, without a loudspeaker.
   * With `change`, what is listened to changes at that song time, as it does when an edit comes in while playing.
   */
  async heard(
    parts: Part[],
    from_s: number,
    to_s: number,
    change?: { source: Source; at_s: number },
  ): Promise<Float32Array> {
    const rate = parts[0]!.track.sample_rate;
    const offline = new OfflineAudioContext(1, Math.round((to_s - from_s) * rate), rate);
    const fill = async (layer: Layer, start_s: number): Promise<void> => {
      for (let at = start_s; at < to_s; at += 0.5) await layer.schedule(at, Math.min(to_s, at + 0.5), at - from_s);
    };
    for (const part of parts) {
      const layer = new Layer(offline, this.blocks, part.track, part.source, offline.destination, nameOf(part));
      layer.output.gain.value = part.gain;
      await fill(layer, from_s);
      if (!change) continue;
      layer.source = change.source;
      layer.silence(change.at_s - from_s);
      await fill(layer, change.at_s);
    }
    return (await offline.startRendering()).getChannelData(0);
  }
}
