/** A part as it is played: its sound, and how loud. */
export interface Part {
  part: string;
  key: string;
  channels: Float32Array[];
  gain: number;
}

interface Voice extends Part {
  at: number;
  /** Where its gain is now, and by how much it goes there in a frame. */
  now: number;
  step: number;
  loops: boolean;
}

/** How far below full scale the click lies, its pitches on the bar and on a beat, and how long it rings. */
const CLICK = { level: 0.18, barHz: 1760, beatHz: 1175, seconds: 0.03 };

/**
 * Plays the parts of a loop from one place, so that all of them are in step to the sample: what stays goes on
 * untouched, what changes is crossfaded where it is.
 */
export class Mixer {
  private voices: Voice[] = [];
  private frames = 0;
  private beatsLong = 1;
  /** Where in the loop beats begin, in frames; the first of four is the bar's. None: no click. */
  private beats: number[] = [];
  /** The next frame of the loop. */
  at = 0;

  constructor(
    private readonly fade: number,
    private readonly rate = 48_000,
  ) {}

  get playing(): boolean {
    return this.voices.some(({ loops, gain }) => loops && gain >= 0);
  }

  /**
   * Start a loop of so many frames and beats, or go on with other parts: in the same place of the bar, at
   * another tempo too.
   */
  plan(parts: Part[], frames: number, beats = frames): void {
    const starting = !this.playing;
    const same = this.frames / this.beatsLong === frames / beats;
    const moved = same
      ? this.at
      : Math.round((this.at * frames * this.beatsLong) / (beats * this.frames));
    this.at = starting ? 0 : moved % frames;
    this.beatsLong = beats;
    const kept = new Set<Voice>();
    const fresh: Voice[] = [];
    for (const one of parts) {
      const same = this.voices.find(
        (voice) =>
          voice.loops && voice.gain >= 0 && voice.part === one.part && voice.key === one.key,
      );
      if (same && frames === this.frames) {
        same.gain = one.gain;
        kept.add(same);
      } else {
        // From silence nothing is faded in: the first stroke keeps its onset.
        const now = starting ? one.gain : 0;
        fresh.push({ ...one, at: this.at, now, step: 1 / this.fade, loops: true });
      }
    }
    for (const voice of this.voices) if (voice.loops && !kept.has(voice)) voice.gain = -1;
    this.voices.push(...fresh);
    this.frames = frames;
  }

  /** How loud each part is. */
  gains(of: Record<string, number>): void {
    for (const voice of this.voices)
      if (voice.loops && voice.gain >= 0) voice.gain = of[voice.part] ?? voice.gain;
  }

  /** One sound by itself, over whatever plays, until it is over or released. */
  once(channels: Float32Array[], key = ""): void {
    const rest = { part: "", key, gain: 1, now: 1, step: 1 / this.fade, loops: false };
    this.voices.push({ ...rest, channels, at: 0 });
  }

  /** Let go of what was struck under a key. */
  release(key: string): void {
    for (const voice of this.voices) if (!voice.loops && voice.key === key) voice.gain = 0;
  }

  /** Beats to be counted aloud while the loop plays. */
  click(beats: number[]): void {
    this.beats = beats;
  }

  stop(): void {
    for (const voice of this.voices) if (voice.loops) voice.gain = -1;
  }

  /** The next frames of everything. */
  render(left: Float32Array, right: Float32Array): void {
    left.fill(0);
    right.fill(0);
    for (const voice of this.voices) this.add(voice, left, right);
    this.voices = this.voices.filter(
      ({ loops, gain, now, at, channels }) =>
        (loops && (gain >= 0 || now > 0)) ||
        (!loops && (gain > 0 || now > 0) && at < (channels[0]?.length ?? 0)),
    );
    if (this.playing && this.beats.length > 0) this.count(left, right);
    if (this.playing) this.at = (this.at + left.length) % this.frames;
  }

  private count(left: Float32Array, right: Float32Array): void {
    const { level, barHz, beatHz, seconds } = CLICK;
    this.beats.forEach((beat, n) => {
      const turn = (2 * Math.PI * (n % 4 === 0 ? barHz : beatHz)) / this.rate;
      for (let k = 0; k < left.length; k++) {
        const since = (((this.at + k - beat) % this.frames) + this.frames) % this.frames;
        if (since >= 8 * seconds * this.rate) continue;
        const x = level * Math.sin(turn * since) * Math.exp(-since / (seconds * this.rate));
        left[k]! += x;
        right[k]! += x;
      }
    });
  }

  private add(voice: Voice, left: Float32Array, right: Float32Array): void {
    const [one, other = one] = voice.channels;
    if (!one || !other) return;
    const wanted = Math.max(voice.gain, 0);
    for (let n = 0; n < left.length; n++) {
      if (voice.at >= one.length) {
        if (!voice.loops) return;
        voice.at = 0;
      }
      if (voice.now !== wanted) {
        const by = wanted - voice.now;
        voice.now = Math.abs(by) <= voice.step ? wanted : voice.now + Math.sign(by) * voice.step;
      }
      left[n]! += voice.now * one[voice.at]!;
      right[n]! += voice.now * other[voice.at]!;
      voice.at++;
    }
  }
}
