/** Playback only: the loop’s parts in step, switched and matched in level, through a limiter. */

const RATE = 48_000;
const FADE_S = 0.012;
const PARTS = ["kick", "bass", "ducked", "rest"] as const;
type Part = (typeof PARTS)[number];

/** One pass of the loop: kick, bass, ducked bass, and where there is any the rest, channel by channel. */
export interface Pass {
  samples: Float32Array<ArrayBuffer>;
  frames: number;
  /** How many channels each part has. */
  channels: number[];
}

export interface Hearing {
  part: "kick" | "bass" | "both" | "all";
  ducked: boolean;
  lowOnly: boolean;
  mono: boolean;
  matchDb: number;
  volumeDb: number;
}

/** What is heard at first: sound starts quiet. */
export const QUIETLY: Hearing = {
  part: "both",
  ducked: true,
  lowOnly: false,
  mono: false,
  matchDb: 0,
  volumeDb: -18,
};

interface Voice {
  source: AudioBufferSourceNode;
  gain: GainNode;
}

const linear = (db: number) => 10 ** (db / 20);

export class Player {
  private context: AudioContext | null = null;
  private gains: Partial<Record<Part, GainNode>> = {};
  private master: GainNode | null = null;
  private bus: GainNode | null = null;
  private direct: GainNode | null = null;
  private filtered: GainNode | null = null;
  private voices: Voice[] = [];
  private startedAt = 0;
  private seconds = 0;
  private hearing: Hearing = QUIETLY;

  get playing(): boolean {
    return this.voices.length > 0;
  }

  /** Where in the loop the sound is, in ms, or null in silence. */
  positionMs(): number | null {
    if (!this.context || !this.playing || !this.seconds) return null;
    const heard = this.context.currentTime - (this.context.outputLatency || 0) - this.startedAt;
    return ((((heard % this.seconds) + this.seconds) % this.seconds) as number) * 1000;
  }

  private build(): AudioContext {
    if (this.context) return this.context;
    const context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    const bus = (this.bus = context.createGain());
    this.direct = context.createGain();
    this.filtered = context.createGain();
    // Two equal sections make the fourth-order Linkwitz-Riley edge of the low band.
    const edge = () => new BiquadFilterNode(context, { type: "lowpass", frequency: 150, Q: -3.01 });
    bus.connect(this.direct);
    bus.connect(edge()).connect(edge()).connect(this.filtered);
    this.master = context.createGain();
    this.direct.connect(this.master);
    this.filtered.connect(this.master);
    const limiter = new DynamicsCompressorNode(context, {
      threshold: -6,
      knee: 0,
      ratio: 20,
      attack: 0.001,
      release: 0.08,
    });
    this.master.connect(limiter).connect(context.destination);
    for (const part of PARTS) {
      const gain = context.createGain();
      gain.connect(bus);
      this.gains[part] = gain;
    }
    this.context = context;
    this.apply(0);
    return context;
  }

  /** Start, or go on at the same place of the loop with other sound. */
  play({ samples, frames, channels }: Pass): void {
    const context = this.build();
    void context.resume();
    const now = context.currentTime;
    const position = this.playing ? (now - this.startedAt) % this.seconds : 0;
    this.release(now);
    this.seconds = frames / RATE;
    this.startedAt = now - (position % this.seconds);
    let from = 0;
    this.voices = channels.map((count, index) => {
      const buffer = context.createBuffer(count, frames, RATE);
      for (let side = 0; side < count; side++) {
        buffer.copyToChannel(samples.subarray(from, from + frames), side);
        from += frames;
      }
      const source = new AudioBufferSourceNode(context, { buffer, loop: true });
      const gain = context.createGain();
      gain.gain.setValueAtTime(0, now);
      gain.gain.linearRampToValueAtTime(1, now + FADE_S);
      source.connect(gain).connect(this.gains[PARTS[index] as Part] as GainNode);
      source.start(now, position % this.seconds);
      return { source, gain };
    });
  }

  /** One hit by itself, from a WAV file, over whatever plays; as loud as in the loop. */
  async once(wav: ArrayBuffer): Promise<void> {
    const context = this.build();
    void context.resume();
    const buffer = await context.decodeAudioData(wav);
    const source = new AudioBufferSourceNode(context, { buffer });
    source.connect(this.bus as GainNode);
    source.start();
  }

  stop(): void {
    if (this.context) this.release(this.context.currentTime);
  }

  private release(now: number): void {
    for (const { source, gain } of this.voices) {
      gain.gain.cancelScheduledValues(now);
      gain.gain.setTargetAtTime(0, now, FADE_S / 3);
      source.stop(now + 2 * FADE_S);
    }
    this.voices = [];
  }

  set(hearing: Hearing): void {
    this.hearing = hearing;
    this.apply(FADE_S / 2);
  }

  private apply(time: number): void {
    const { context, master, direct, filtered } = this;
    if (!context || !master || !direct || !filtered) return;
    const { part, ducked, lowOnly, mono, matchDb, volumeDb } = this.hearing;
    // One channel of what is two: half of their sum.
    master.channelCountMode = "explicit";
    master.channelCount = mono ? 1 : 2;
    const levels: Record<Part, number> = {
      kick: part === "bass" ? 0 : 1,
      rest: part === "all" ? 1 : 0,
      bass: part !== "kick" && !ducked ? 1 : 0,
      ducked: part !== "kick" && ducked ? 1 : 0,
    };
    const to = (node: GainNode, value: number) =>
      node.gain.setTargetAtTime(value, context.currentTime, Math.max(time, 0.001));
    for (const name of PARTS) to(this.gains[name] as GainNode, levels[name]);
    to(direct, lowOnly ? 0 : 1);
    to(filtered, lowOnly ? 1 : 0);
    to(master, linear(matchDb + volumeDb));
  }
}
