import { inOrder, onPulse, overBars, snapped } from "./pattern";

/** A note that a hand played over the loop, in beats of it. */
export interface PlayedNote {
  at: number;
  beats: number;
  midi: number;
  velocity: number;
}

const SHORTEST_BEATS = 1 / 8;

/** How long a key was held that went down at a place of the loop and up at another, in beats. */
export function heldFor(down: number, up: number, loop: number): number {
  return Math.max(SHORTEST_BEATS, (((up - down) % loop) + loop) % loop);
}

/** Notes on the grid of their part, the later of two on one place left out. */
export function onGrid(notes: PlayedNote[], step: number, loop: number): PlayedNote[] {
  const taken = new Set<number>();
  return inOrder(notes.map((note) => ({ ...note, at: snapped(note.at, step) % loop }))).filter(
    ({ at }) => !taken.has(at) && taken.add(at),
  );
}

interface Struck {
  at: number;
  velocity: number;
}

/** A pattern with strokes that were played over it: where both strike within reach, the harder one stays. */
export function overdubbed<T extends Struck>(
  old: { steps: T[]; bars: number },
  fresh: { steps: T[]; bars: number },
  reach: number,
): { steps: T[]; bars: number } {
  const bars = Math.max(old.bars, fresh.bars);
  const steps = overBars(old.steps, old.bars, bars);
  for (const one of fresh.steps) {
    const near = steps.findIndex(({ at }) => Math.abs(at - one.at) <= reach);
    if (near < 0) steps.push(one);
    else if (steps[near]!.velocity < one.velocity) steps[near] = one;
  }
  return { steps: inOrder(steps.map((one) => ({ ...one, at: onPulse(one.at) }))), bars };
}
