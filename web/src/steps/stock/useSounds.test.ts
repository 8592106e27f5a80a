import { expect, test } from "vitest";
import type { Fit, Sound } from "../../api/client";
import { ordered } from "./useSounds";

const sound = (hash: string) => ({ hash }) as Sound;
const fit = (hash: string, value: number, measured: boolean): [string, Fit] => [
  hash,
  { hash, fit: value, measured, reasons: [], note: null, shift_cents: 0 },
];

test("what was measured comes first, the best before the others", () => {
  const sounds = ["a", "b", "c", "d"].map(sound);
  const fits = new Map([fit("a", 99, false), fit("b", 70, true), fit("c", 80, true)]);
  expect(ordered(sounds, fits).map(({ hash }) => hash)).toEqual(["c", "b", "a", "d"]);
});

test("without fits they stay as they came", () => {
  expect(ordered(["b", "a"].map(sound), new Map()).map(({ hash }) => hash)).toEqual(["b", "a"]);
});
