import { scaleLinear } from "d3-scale";
import { expect, test } from "vitest";
import { ends, gainScale, hzScale, limited, MARGIN, pixelsPerMs } from "./frame";

test("gain runs from the top down and stays inside the picture", () => {
  const gain = gainScale(300);
  expect(gain(0)).toBeGreaterThanOrEqual(MARGIN.top);
  expect(gain(-12)).toBeGreaterThan(gain(0));
  expect(gain(-90)).toBeLessThanOrEqual(300 - MARGIN.bottom);
  expect(gain(-90)).toBe(gain(-40));
});

test("an octave is as tall at the bottom as at the top", () => {
  const hz = hzScale(150, 280);
  expect(hz(50) - hz(100)).toBeCloseTo(hz(200) - hz(400), 6);
  expect(hz(5)).toBe(hz(25));
});

test("pixels, ends and limits", () => {
  const x = scaleLinear([0, 500], [10, 1010]);
  expect(pixelsPerMs(x)).toBeCloseTo(2);
  expect(ends(x)).toEqual([10, 1010]);
  expect([limited(-1, 0, 5), limited(3, 0, 5), limited(9, 0, 5)]).toEqual([0, 3, 5]);
});
