import { area, line } from "d3-shape";
import type { WaveShape } from "../../api/client";
import type { Scale } from "./frame";

interface Shown {
  wave: WaveShape;
  from: number;
  to: number;
  x: Scale;
  /** The largest sample of what is seen, which fills the room. */
  top: number;
  middle: number;
  room: number;
}

/** A wave from near: a line through its samples, or what its columns reach. */
export function Wave({ wave, from, to, x, top, middle, room }: Shown) {
  const step = (to - from) / wave.low.length;
  const y = (sample: number) => middle - (0.92 * room * sample) / (top || 1);
  const samples = step < 0.1;
  const path = samples
    ? line<number>()
        .x((_, n) => x(from + n * step))
        .y(y)(wave.high)
    : area<number>()
        .x((_, n) => x(from + n * step))
        .y0((_, n) => y(wave.low[n] ?? 0))
        .y1(y)(wave.high);
  return <path d={path ?? ""} className={samples ? "wave" : "wave columns"} />;
}

export const topOf = (...waves: WaveShape[]): number =>
  waves
    .flatMap(({ low, high }) => [...low, ...high])
    .reduce((most, one) => Math.max(most, Math.abs(one)), 0);
