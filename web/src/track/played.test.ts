import { expect, test } from "vitest";
import { heldFor, onGrid, overdubbed } from "./played";

const note = (at: number, midi = 36) => ({ at, beats: 0.25, midi, velocity: 0.8 });
const steps = (...at: number[]) => at.map((one) => ({ at: one, velocity: 0.7 }));

test("a key that is held over the end of the loop is as long as it was held", () => {
  expect(heldFor(7.75, 0.25, 8)).toBeCloseTo(0.5);
  expect(heldFor(1, 1.01, 8)).toBe(0.125);
});

test("on the grid a stroke goes to its nearest place, from the loop's end to its beginning", () => {
  expect(onGrid([note(0.27), note(7.98), note(0.24)], 0.25, 8).map(({ at }) => at)).toEqual([
    0, 0.25,
  ]);
});

test("strokes played over a pattern join it, and never double a stroke", () => {
  const old = { steps: steps(0, 1, 2, 3), bars: 1 };
  const fresh = { steps: [{ at: 5.01, velocity: 1 }, ...steps(6.5)], bars: 2 };
  const both = overdubbed(old, fresh, 0.06);
  expect(both.bars).toBe(2);
  expect(both.steps.map(({ at }) => Math.round(at * 100) / 100)).toEqual([
    0, 1, 2, 3, 4, 5.01, 6, 6.5, 7,
  ]);
  expect(both.steps[5]?.velocity).toBe(1);
});
