import { api, type TrackState } from "../api/client";
import { judging, type ReferenceView, type Through } from "../api/judging";
import { LISTENING } from "../api/limits";
import { heardOf } from "./heard";
import type { Hearing, Pass } from "./player";

/** So much is kept of what was fetched, the latest first. */
const MOST_BYTES = 96 << 20;

/** The sounds of states, each fetched once for as long as it is kept. */
export class Sounds {
  private readonly kept = new Map<string, Float32Array[]>();
  private bytes = 0;

  /** What is played of a state, before or under its duckings. */
  async pass(state: TrackState, ducked: boolean): Promise<Pass> {
    const plan = await api.planSound(state, ducked ? "heard" : "before");
    const keyed = plan.parts.map((one) => ({ ...one, key: ducked ? one.heard : one.before }));
    const parts = await Promise.all(
      keyed.map(async ({ part, side, key }) => ({ part, side, key, channels: await this.of(key) })),
    );
    this.forget(keyed.map(({ key }) => key));
    return { frames: plan.frames, beats: beatsOf(plan.frames, state), parts };
  }

  /** The same as it is heard in a place: what is heard together is one sound there. */
  async passIn(
    through: Through,
    state: TrackState,
    ducked: boolean,
    wish: Pick<Hearing, "part" | "solo">,
  ): Promise<Pass> {
    const plan = await api.planSound(state, "none");
    const heard = heardOf(wish, plan.parts);
    if (heard.length === 0)
      return { frames: plan.frames, beats: beatsOf(plan.frames, state), parts: [] };
    const { key, frames, gain_db, short } = await judging.heardThere(state, through, heard, ducked);
    const parts = [{ part: "the-room", side: "room" as const, key, channels: await this.of(key) }];
    this.forget([key]);
    return { frames, beats: beatsOf(frames, state), parts, lift: { gain_db, short } };
  }

  /** A record’s passage, by itself. */
  async record({
    id,
    frames,
    beats,
  }: Pick<ReferenceView, "id" | "frames" | "beats">): Promise<Pass> {
    const key = `reference ${id}`;
    const channels = await this.of(key, () => judging.referenceSound(id));
    this.forget([key]);
    return { frames, beats, parts: [{ part: "the-record", side: "room", key, channels }] };
  }

  private async of(key: string, fetched = () => api.sound(key)): Promise<Float32Array[]> {
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known;
    }
    const channels = await fetched();
    if (!this.kept.has(key)) this.bytes += size(channels);
    this.kept.set(key, channels);
    return channels;
  }

  private forget(keys: string[]): void {
    const needed = new Set(keys);
    for (const [key, channels] of this.kept) {
      if (this.bytes <= MOST_BYTES) return;
      if (needed.has(key)) continue;
      this.kept.delete(key);
      this.bytes -= size(channels);
    }
  }
}

const beatsOf = (frames: number, { brief }: TrackState) =>
  Math.round((frames / LISTENING.rate / 60) * brief.bpm);
const size = (channels: Float32Array[]) => channels.reduce((sum, one) => sum + one.byteLength, 0);
