import type { DuckPoint, Traced } from "../../api/client";
import { limited } from "../../bench/beat/frame";

/** Within what points may lie: the recipe's own limits. */
export type Limits = Pick<Traced, "most_points" | "apart_ms" | "latest_ms">;

/** A time on a grid that is counted from the trigger, which comes `lookahead` after the start. */
export const snapped = (at: number, grid: number | null, lookahead: number) =>
  grid === null ? at : Math.max(0, Math.round((at - lookahead) / grid) * grid + lookahead);

const tidy = (value: number, digits: number) => Number(value.toFixed(digits));

/** One point moved, between its neighbours; the ends take nothing. */
export function moved(
  points: DuckPoint[],
  n: number,
  to: Partial<DuckPoint>,
  { apart_ms, latest_ms }: Limits,
): DuckPoint[] {
  const old = points[n];
  if (!old) return points;
  const low = n === 0 ? 0 : (points[n - 1]?.at_ms ?? 0) + apart_ms;
  const high = n === points.length - 1 ? latest_ms : (points[n + 1]?.at_ms ?? latest_ms) - apart_ms;
  const end = n === 0 || n === points.length - 1;
  const point = {
    at_ms: tidy(limited(to.at_ms ?? old.at_ms, low, high), 1),
    share: end ? 0 : tidy(limited(to.share ?? old.share, 0, 1), 3),
    bend: tidy(limited(to.bend ?? old.bend ?? 0, -1, 1), 2),
  };
  return points.map((one, k) => (k === n ? point : one));
}

/** A point more, where there is room for it; the same points where there is none. */
export function withPoint(
  points: DuckPoint[],
  at_ms: number,
  share: number,
  { apart_ms, most_points }: Limits,
): DuckPoint[] {
  const n = points.findIndex((point) => point.at_ms > at_ms);
  const before = points[n - 1];
  const after = points[n];
  if (!before || !after || points.length >= most_points) return points;
  if (at_ms - before.at_ms < apart_ms || after.at_ms - at_ms < apart_ms) return points;
  const point = { at_ms: tidy(at_ms, 1), share: tidy(limited(share, 0, 1), 3), bend: 0 };
  return [...points.slice(0, n), point, ...points.slice(n)];
}

/** A point less; the ends and the last one between them stay. */
export const withoutPoint = (points: DuckPoint[], n: number): DuckPoint[] =>
  n <= 0 || n >= points.length - 1 || points.length <= 3
    ? points
    : points.filter((_, k) => k !== n);

/** The middle of the longest way between two points. */
export function roomiest(points: DuckPoint[]): number {
  let best = { at: 0, long: -1 };
  for (let n = 1; n < points.length; n++) {
    const from = points[n - 1]?.at_ms ?? 0;
    const long = (points[n]?.at_ms ?? 0) - from;
    if (long > best.long) best = { at: from + long / 2, long };
  }
  return best.at;
}
