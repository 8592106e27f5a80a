import { api, type SoundPlan, type TrackState } from "../api/client";
import { LISTENING } from "../api/limits";
import type { Pass } from "./player";

/** So much is kept of what was fetched, the latest first. */
const MOST_BYTES = 96 << 20;

/** The sounds of states, each fetched once for as long as it is kept. */
export class Sounds {
  private readonly kept = new Map<string, Float32Array[]>();
  private bytes = 0;

  /** What is played of a state, before or under its duckings. */
  async pass(state: TrackState, ducked: boolean): Promise<Pass> {
    const plan = await api.planSound(state);
    const keyed = plan.parts.map((one) => ({ ...one, key: ducked ? one.heard : one.before }));
    const parts = await Promise.all(
      keyed.map(async ({ part, side, key }) => ({ part, side, key, channels: await this.of(key) })),
    );
    this.forget(plan);
    const beats = Math.round((plan.frames / LISTENING.rate / 60) * state.brief.bpm);
    return { frames: plan.frames, beats, parts };
  }

  private async of(key: string): Promise<Float32Array[]> {
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known;
    }
    const channels = await api.sound(key);
    if (!this.kept.has(key)) this.bytes += size(channels);
    this.kept.set(key, channels);
    return channels;
  }

  private forget({ parts }: SoundPlan): void {
    const needed = new Set(parts.flatMap(({ before, heard }) => [before, heard]));
    for (const [key, channels] of this.kept) {
      if (this.bytes <= MOST_BYTES) return;
      if (needed.has(key)) continue;
      this.kept.delete(key);
      this.bytes -= size(channels);
    }
  }
}

const size = (channels: Float32Array[]) => channels.reduce((sum, one) => sum + one.byteLength, 0);
