/** What the limiter is told: the same words as in Python’s definition. */
export interface Settings {
  rate: number;
  ceiling_db: number;
  ahead_ms: number;
  release_ms: number;
  k_weighting: number[][];
  between: number[][];
}

/** Less than this is nothing: it is 140 dB down. */
const NOTHING_DB = 1e-6;

/**
 * A look-ahead limiter: what a peak needs is held from before it, released after it, and averaged over the
 * look-ahead. What stays under the ceiling passes as it is, later by the look-ahead.
 */
export class Limiter {
  /** How many frames later everything comes out. */
  readonly delay: number;
  private readonly ahead: number;
  private readonly ceiling: number;
  private readonly release: number;
  /** What is on its way, on two sides. */
  private readonly late: [Float64Array, Float64Array];
  /** What the latest frames need, those that are less than a later one left out: frame and need. */
  private readonly waiting: { at: number; db: number }[] = [];
  private readonly needs: Float64Array;
  private sum = 0;
  private held = 0;
  private frame = 0;
  /** The most that was taken since it was last asked. */
  private most = 0;

  constructor({ rate, ceiling_db, ahead_ms, release_ms }: Settings) {
    this.ahead = Math.max(1, Math.round((ahead_ms / 1000) * rate));
    this.delay = this.ahead - 1;
    this.ceiling = ceiling_db;
    this.release = Math.exp(-1000 / (release_ms * rate));
    this.late = [new Float64Array(this.ahead), new Float64Array(this.ahead)];
    this.needs = new Float64Array(this.ahead);
  }

  /** Two sides through it, in their places. */
  process(left: Float32Array, right: Float32Array): void {
    for (let n = 0; n < left.length; n++) {
      const peak = Math.max(Math.abs(left[n]!), Math.abs(right[n]!));
      const needed = this.greatest(
        Math.max(20 * Math.log10(Math.max(peak, 1e-9)) - this.ceiling, 0),
      );
      this.held =
        needed >= this.held ? needed : this.release * this.held + (1 - this.release) * needed;
      if (this.held < NOTHING_DB) this.held = 0;
      const slot = this.frame % this.ahead;
      this.sum += this.held - this.needs[slot]!;
      this.needs[slot] = this.held;
      // Sums of what comes and goes drift: what is over is over.
      if (this.sum < this.ahead * NOTHING_DB) this.sum = 0;
      const taken = this.sum / this.ahead;
      this.most = Math.max(this.most, taken);
      const gain = taken === 0 ? 1 : 10 ** (-taken / 20);
      const oldest = (this.frame + 1) % this.ahead;
      this.late[0][slot] = left[n]!;
      this.late[1][slot] = right[n]!;
      left[n] = gain * this.late[0][oldest]!;
      right[n] = gain * this.late[1][oldest]!;
      this.frame++;
    }
  }

  /** The most that was taken since the last time, in dB. */
  taken(): number {
    const most = this.most;
    this.most = 0;
    return most;
  }

  /** The greatest need of the last frames of the look-ahead. */
  private greatest(db: number): number {
    const { waiting, frame, ahead } = this;
    while (waiting.length > 0 && waiting[waiting.length - 1]!.db <= db) waiting.pop();
    waiting.push({ at: frame, db });
    if (waiting[0]!.at <= frame - ahead) waiting.shift();
    return waiting[0]!.db;
  }
}

/** Loudness over 400 ms is kept in pieces of so long. */
const PIECE_S = 0.01;
const PIECES = 40;
const SILENT = -120;

/** Momentary loudness and true peak of two sides (ITU-R BS.1770). */
export class Meter {
  private readonly sides: [Side, Side];
  private readonly piece: number;
  private readonly powers = new Float64Array(PIECES);
  private filled = 0;
  private power = 0;
  private count = 0;
  private peak = 0;

  constructor({ rate, k_weighting, between }: Settings) {
    this.piece = Math.round(PIECE_S * rate);
    this.sides = [new Side(k_weighting, between), new Side(k_weighting, between)];
  }

  push(left: Float32Array, right: Float32Array): void {
    const [one, other] = this.sides;
    for (let n = 0; n < left.length; n++) {
      this.power += one.weighted(left[n]!) + other.weighted(right[n]!);
      this.peak = Math.max(
        this.peak,
        one.between(left[n]!, this.peak),
        other.between(right[n]!, this.peak),
      );
      if (++this.count === this.piece) {
        this.powers[this.filled++ % PIECES] = this.power / this.piece;
        this.power = this.count = 0;
      }
    }
  }

  /** Loudness of the last 400 ms in LUFS, and the true peak since the last time in dBTP. */
  read(): { lufs: number; dbtp: number } {
    const mean = this.powers.reduce((sum, one) => sum + one, 0) / PIECES;
    const dbtp = this.peak > 0 ? 20 * Math.log10(this.peak) : SILENT;
    this.peak = 0;
    return { lufs: mean > 1e-12 ? -0.691 + 10 * Math.log10(mean) : SILENT, dbtp };
  }
}

/** One side of a meter: its filters, and the frames around the one that is looked at. */
class Side {
  private readonly memory: number[][];
  private readonly around: Float64Array;
  private at = 0;

  constructor(
    private readonly sections: number[][],
    private readonly weights: number[][],
  ) {
    this.memory = sections.map(() => [0, 0]);
    this.around = new Float64Array(weights[0]?.length ?? 1);
  }

  /** The power of a frame, K-weighted. */
  weighted(x: number): number {
    let value = x;
    this.sections.forEach(([b0 = 1, b1 = 0, b2 = 0, , a1 = 0, a2 = 0], n) => {
      const memory = this.memory[n]!;
      const y = b0 * value + memory[0]!;
      memory[0] = b1 * value - a1 * y + memory[1]!;
      memory[1] = b2 * value - a2 * y;
      value = y;
    });
    return value * value;
  }

  /** The highest point from a frame to the next, where it could be more than `least`; some frames late. */
  between(x: number, least: number): number {
    const { around, weights } = this;
    const size = around.length;
    around[this.at] = x;
    this.at = (this.at + 1) % size;
    const middle = Math.abs(around[(this.at + (size >> 1)) % size]!);
    const next = Math.abs(around[(this.at + (size >> 1) + 1) % size]!);
    let best = middle;
    // Between two frames it rises to twice the higher one at most.
    if (2 * Math.max(middle, next) <= least) return best;
    for (const taps of weights) {
      let value = 0;
      for (let n = 0; n < size; n++) value += taps[n]! * around[(this.at + n) % size]!;
      best = Math.max(best, Math.abs(value));
    }
    return best;
  }
}
