import { expect, test } from "vitest";
import { type Limits, moved, roomiest, snapped, withoutPoint, withPoint } from "./points";

const LIMITS: Limits = { most_points: 5, apart_ms: 0.5, latest_ms: 2000 };
const POINTS = [
  { at_ms: 0, share: 0, bend: 0 },
  { at_ms: 10, share: 1, bend: 0.5 },
  { at_ms: 100, share: 0, bend: 0 },
];

test("a point stays between its neighbours, and the ends take nothing", () => {
  expect(moved(POINTS, 1, { at_ms: 400 }, LIMITS)[1]).toEqual({ at_ms: 99.5, share: 1, bend: 0.5 });
  expect(moved(POINTS, 1, { at_ms: -3, share: 2 }, LIMITS)[1]).toEqual({
    at_ms: 0.5,
    share: 1,
    bend: 0.5,
  });
  expect(moved(POINTS, 2, { at_ms: 150, share: 0.4 }, LIMITS)[2]).toEqual({
    at_ms: 150,
    share: 0,
    bend: 0,
  });
});

test("the grid is counted from the trigger, not from the start of the curve", () => {
  expect(snapped(61, 60, 0)).toBe(60);
  expect(snapped(61, 60, 12)).toBe(72);
  expect(snapped(3, 60, 12)).toBe(12);
  expect(snapped(61, null, 12)).toBe(61);
});

test("a point goes in where it belongs, and nowhere without room", () => {
  expect(withPoint(POINTS, 50.04, 0.7, LIMITS).map(({ at_ms }) => at_ms)).toEqual([0, 10, 50, 100]);
  expect(withPoint(POINTS, 10.2, 0.7, LIMITS)).toBe(POINTS);
  expect(withPoint(POINTS, 120, 0.7, LIMITS)).toBe(POINTS);
  const full = Array.from({ length: LIMITS.most_points }, (_, n) => ({
    at_ms: 10 * n,
    share: 0,
    bend: 0,
  }));
  expect(withPoint(full, 5, 0.5, LIMITS)).toBe(full);
  expect(roomiest(POINTS)).toBe(55);
});

test("what a curve cannot do without stays", () => {
  expect(withoutPoint(POINTS, 1)).toBe(POINTS);
  const four = withPoint(POINTS, 50, 0.5, LIMITS);
  expect(withoutPoint(four, 2)).toEqual(POINTS);
  expect(withoutPoint(four, 0)).toBe(four);
});
