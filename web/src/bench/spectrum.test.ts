import { expect, test } from "vitest";
import { outline } from "./Spectrum";

test("a tone is a point to the right at its frequency", () => {
  const levels_db = new Float32Array(4096).fill(-150);
  levels_db[Math.round(100 / 3)] = -30;
  const points = outline({ levels_db, hz_per_bin: 3 }, (hz) => hz, 200, [20, 605])
    .slice(1)
    .split("L")
    .map((one) => one.split(",").map(Number));
  const strong = points.filter(([x]) => x === 200);
  expect(strong.length).toBeGreaterThan(0);
  for (const [, hz] of strong) expect(Math.abs((hz ?? 0) / 99 - 1)).toBeLessThan(0.03);
  expect(points[0]?.[0]).toBe(0);
});
