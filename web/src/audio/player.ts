import { LISTENING } from "../api/limits";
import { heardOf } from "./heard";
import type { Place, Reading, ToMixer } from "./messages";
import mixerWorklet from "./mixer.worklet.ts?worker&url";
import outputWorklet from "./output.worklet.ts?worker&url";

/** Playback only: the loop’s parts in step, switched and matched in level, through a limiter and a meter. */

const RATE = LISTENING.rate;
const [LOW_EDGE_HZ = 150, TOP_EDGE_HZ = 2000] = LISTENING.band_edges_hz;
const SMOOTH_S = 0.006;
/** Two equal sections of this Q, in dB, make a fourth-order Linkwitz-Riley filter. */
const Q_DB = -3.01;
/** How long a browser may take to let sound begin. */
const HELD_BACK_MS = 1500;
/** So long after the last sound nothing is computed any more; one hit by itself is over by then. */
const RESTS_MS = 12_000;

/** A part of a loop with its sound, channel by channel. */
export interface PlayedPart {
  part: string;
  side: "kick" | "bass" | "rest" | "sum" | "room";
  key: string;
  channels: Float32Array[];
}

/** How strong every bin of what leaves is, in dBFS. */
export interface LiveSpectrum {
  levels_db: Float32Array;
  hz_per_bin: number;
}

/** One pass of the loop, part by part. */
export interface Pass {
  frames: number;
  /** How many beats it has. */
  beats: number;
  parts: PlayedPart[];
  /** What made it as loud in a place as it is without it. */
  lift?: { gain_db: number; short: boolean };
}

/** Every beat of a pass, in frames. */
const beatsOf = ({ frames, beats }: Pass): number[] =>
  Array.from({ length: beats }, (_, n) => Math.round((n * frames) / beats));

export const BANDS = ["all", "low", "mid", "top"] as const;
export type Band = (typeof BANDS)[number];

export const HEARABLE = ["kick", "bass", "both", "all"] as const;

export interface Hearing {
  part: (typeof HEARABLE)[number];
  /** A part that is heard alone, by its id. */
  solo: string | null;
  ducked: boolean;
  band: Band;
  mono: boolean;
  /** Whether a band alone is brought to the loudness of the whole. */
  even: boolean;
  /** Whether the beats are counted aloud. */
  click: boolean;
  matchDb: number;
  volumeDb: number;
}

/** What is heard at first: sound starts quiet. */
export const QUIETLY: Hearing = {
  part: "both",
  solo: null,
  ducked: true,
  band: "all",
  mono: false,
  even: false,
  click: false,
  matchDb: 0,
  volumeDb: -18,
};

const linear = (db: number) => 10 ** (db / 20);

interface Graph {
  context: AudioContext;
  mixer: AudioWorkletNode;
  bands: Record<Band, GainNode>;
  master: GainNode;
  analyser: AnalyserNode;
}

export class Player {
  private graph: Promise<Graph> | null = null;
  private built: Graph | null = null;
  private pass: Pass | null = null;
  private hearing: Hearing = QUIETLY;
  private place: Place | null = null;
  /** Sounds that the mixer has. */
  private sent = new Set<string>();
  private wanted = false;
  private resting: ReturnType<typeof setTimeout> | undefined;

  /** Told what leaves for the loudspeakers, some ten times a second. */
  onReading: ((reading: Reading) => void) | null = null;

  get playing(): boolean {
    return this.wanted && this.pass !== null;
  }

  /** The spectrum of what leaves now; null in silence. */
  spectrum(): LiveSpectrum | null {
    if (!this.built || !this.playing) return null;
    const { analyser, context } = this.built;
    const levels_db = new Float32Array(analyser.frequencyBinCount);
    analyser.getFloatFrequencyData(levels_db);
    return { levels_db, hz_per_bin: context.sampleRate / analyser.fftSize };
  }

  /** Where in the loop the sound is, in ms, or null in silence. */
  positionMs(): number | null {
    return this.placeAt(({ currentTime, outputLatency }) => currentTime - (outputLatency || 0));
  }

  /** Where in the loop the sound was that was heard at a time of the page's clock, in ms; null in silence. */
  heardAtMs(stamp: number): number | null {
    const stamps = this.built?.context.getOutputTimestamp();
    if (!stamps?.contextTime || !stamps.performanceTime) return this.positionMs();
    const heard = stamps.contextTime + (stamp - stamps.performanceTime) / 1000;
    return this.placeAt(() => heard);
  }

  /** The place in the loop, in ms, of what leaves at a time of the context in seconds. */
  private placeAt(seconds: (context: AudioContext) => number): number | null {
    const { built, place, pass } = this;
    if (!built || !place || !pass || !this.playing) return null;
    const leaves = seconds(built.context) - LISTENING.ahead_ms / 1000;
    const at = place.at + leaves * RATE - place.frame;
    return ((((at % pass.frames) + pass.frames) % pass.frames) / RATE) * 1000;
  }

  /** How much later a sound is heard than it is asked for, in ms; null before anything was played. */
  get delayMs(): number | null {
    const context = this.built?.context;
    if (!context || context.state !== "running") return null;
    return (context.baseLatency + (context.outputLatency || 0)) * 1000 + LISTENING.ahead_ms;
  }

  /** Make everything ready, so that the first key is heard at once. Rejects where there is no sound. */
  async ready(): Promise<void> {
    await this.make();
  }

  /** Give the sound card back. */
  async close(): Promise<void> {
    this.wanted = false;
    clearTimeout(this.resting);
    const graph = await this.graph?.catch(() => null);
    this.graph = this.built = this.place = null;
    this.sent.clear();
    await graph?.context.close();
  }

  /** Silence costs nothing once it lasts. */
  private rest(): void {
    clearTimeout(this.resting);
    this.resting = setTimeout(() => {
      if (!this.wanted) void this.built?.context.suspend();
    }, RESTS_MS);
  }

  private make(): Promise<Graph> {
    this.graph ??= this.assemble().catch((error: unknown) => {
      this.graph = null;
      throw error;
    });
    return this.graph;
  }

  private async assemble(): Promise<Graph> {
    if (typeof AudioContext === "undefined" || typeof AudioWorkletNode === "undefined")
      throw new Error("This browser plays no sound here. Everything else works.");
    const context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    await Promise.all(
      [mixerWorklet, outputWorklet].map((url) => context.audioWorklet.addModule(url)),
    );
    const mixer = new AudioWorkletNode(context, "mixer", {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
    const output = new AudioWorkletNode(context, "output", {
      channelCount: 2,
      channelCountMode: "explicit",
      outputChannelCount: [2],
    });
    mixer.port.onmessage = ({ data }: MessageEvent<Place>) => (this.place = data);
    output.port.onmessage = ({ data }: MessageEvent<Reading>) => this.onReading?.(data);
    const master = context.createGain();
    const edge = (type: BiquadFilterType, frequency: number) =>
      new BiquadFilterNode(context, { type, frequency, Q: Q_DB });
    const through = (...filters: BiquadFilterNode[]) => {
      const gain = context.createGain();
      [...filters, gain].reduce<AudioNode>((from, to) => from.connect(to), mixer);
      gain.connect(master);
      return gain;
    };
    const pair = (type: BiquadFilterType, hz: number) => [edge(type, hz), edge(type, hz)];
    const bands = {
      all: through(),
      low: through(...pair("lowpass", LOW_EDGE_HZ)),
      mid: through(...pair("highpass", LOW_EDGE_HZ), ...pair("lowpass", TOP_EDGE_HZ)),
      top: through(...pair("highpass", TOP_EDGE_HZ)),
    };
    const analyser = new AnalyserNode(context, { fftSize: 16384, smoothingTimeConstant: 0.6 });
    master.connect(output).connect(context.destination);
    output.connect(analyser);
    this.built = { context, mixer, bands, master, analyser };
    this.apply(0);
    this.rest();
    return this.built;
  }

  private tell(message: ToMixer): void {
    this.built?.mixer.port.postMessage(message);
  }

  private async begun(): Promise<Graph> {
    const graph = await this.make();
    const { context } = graph;
    if (context.state === "running") return graph;
    const held = new Promise<never>((_, reject) =>
      setTimeout(
        () =>
          reject(new Error("The browser holds the sound back: click anywhere, then play again.")),
        HELD_BACK_MS,
      ),
    );
    await Promise.race([context.resume(), held]);
    return graph;
  }

  /** Start, or go on at the same place of the loop with other sound. Rejects where there is no sound. */
  async play(pass: Pass): Promise<void> {
    this.wanted = true;
    this.pass = pass;
    await this.begun();
    if (!this.wanted || this.pass !== pass) return;
    const fresh = pass.parts.filter(({ key }) => !this.sent.has(key));
    if (fresh.length > 0) this.tell({ sounds: fresh.map(({ key, channels }) => [key, channels]) });
    const gains = this.gains();
    const plan = pass.parts.map(({ part, key }) => ({ part, key, gain: gains[part] ?? 0 }));
    this.tell({ plan, frames: pass.frames, beats: pass.beats });
    this.count();
    const now = new Set(pass.parts.map(({ key }) => key));
    const gone = [...this.sent].filter((key) => !now.has(key));
    if (gone.length > 0) this.tell({ forget: gone });
    this.sent = now;
  }

  /** One hit by itself, from a WAV file, over whatever plays; as loud as in the loop. */
  async once(wav: ArrayBuffer): Promise<void> {
    this.strike(await this.read(wav), "");
  }

  /** A WAV file's channels. */
  async read(wav: ArrayBuffer): Promise<Float32Array[]> {
    const { context } = await this.begun();
    const buffer = await context.decodeAudioData(wav);
    return Array.from({ length: buffer.numberOfChannels }, (_, n) =>
      buffer.getChannelData(n).slice(),
    );
  }

  /** What was read before, at once; until it is over or let go under its key. */
  strike(channels: Float32Array[], key: string): void {
    this.tell({ once: channels, key });
    this.rest();
  }

  release(key: string): void {
    this.tell({ release: key });
  }

  stop(): void {
    this.wanted = false;
    this.tell({ stop: true });
    this.rest();
  }

  set(hearing: Hearing): void {
    const toggled = hearing.click !== this.hearing.click;
    this.hearing = hearing;
    this.apply(SMOOTH_S);
    if (toggled) this.count();
  }

  private count(): void {
    this.tell({ click: this.pass && this.hearing.click ? beatsOf(this.pass) : [] });
  }

  private apply(time: number): void {
    if (!this.built) return;
    const { context, master, bands } = this.built;
    const { band, mono, matchDb, volumeDb } = this.hearing;
    // One channel of what is two: half of their sum.
    master.channelCountMode = "explicit";
    master.channelCount = mono ? 1 : 2;
    const to = (node: GainNode, value: number) =>
      node.gain.setTargetAtTime(value, context.currentTime, Math.max(time, 0.001));
    for (const name of BANDS) to(bands[name], name === band ? 1 : 0);
    to(master, linear(matchDb + volumeDb));
    this.tell({ gains: this.gains() });
  }

  /** Which parts are heard of what was played last. */
  heard(hearing: Hearing): string[] {
    return heardOf(hearing, this.pass?.parts ?? []);
  }

  private gains(): Record<string, number> {
    const parts = this.pass?.parts ?? [];
    const heard = this.heard(this.hearing);
    return Object.fromEntries(parts.map(({ part }) => [part, heard.includes(part) ? 1 : 0]));
  }
}
