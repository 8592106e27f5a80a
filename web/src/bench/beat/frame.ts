import { scaleLinear, scaleLog } from "d3-scale";

/** What all parts of the beat window agree on: its edges and its scales. */
export const FLOOR_DB = -48;
export const MARGIN = { left: 12, right: 38, top: 20, bottom: 20 };
const GAIN_FLOOR_DB = -40;

export type Scale = ReturnType<typeof scaleLinear<number>>;

export const limited = (value: number, low: number, high: number) =>
  Math.min(high, Math.max(low, value));
export const pixelsPerMs = (x: Scale) => x(1) - x(0);
export const ends = (x: Scale) => x.range() as [number, number];

/** Frequency of a kick, upwards below the axis. */
export const hzScale = (axis: number, bottom: number) =>
  scaleLog([25, 800], [bottom - 2, axis + 8]).clamp(true);

/** The ducking gain, from nothing at the top down across both halves. */
export const gainScale = (height: number) =>
  scaleLinear([0, GAIN_FLOOR_DB], [MARGIN.top + 4, height - MARGIN.bottom - 4]).clamp(true);
