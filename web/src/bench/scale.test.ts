import { expect, test } from "vitest";
import type { Control } from "../api/client";
import { cents, decibels, onStep, placeOf, shownValue, valueAt } from "./scale";

const control = (changes: Partial<Control>): Control => ({
  name: "x",
  label: "X",
  help: "",
  group: "",
  unit: "ms",
  low: 0,
  high: 100,
  step: 1,
  scale: "linear",
  main: false,
  off: null,
  movable: false,
  default: 0,
  ...changes,
});

const LOG = control({ low: 20, high: 20000, scale: "log" });

test("places and values lead back to each other", () => {
  for (const sheet of [control({}), control({ low: -60, high: 6, step: 0.5 }), LOG]) {
    for (const place of [0, 0.13, 0.5, 0.99, 1]) {
      const value = valueAt(sheet, place);
      expect(value).toBeGreaterThanOrEqual(sheet.low);
      expect(value).toBeLessThanOrEqual(sheet.high);
      expect(valueAt(sheet, placeOf(sheet, value))).toBe(value);
    }
  }
});

test("the middle of a logarithmic slider is the geometric mean", () => {
  expect(valueAt(LOG, 0.5)).toBeCloseTo(632, -1);
});

test("values beyond the limits are brought back to them, and steps are kept", () => {
  expect(onStep(control({}), 130)).toBe(100);
  expect(onStep(control({ step: 0.5 }), 1.26)).toBe(1.5);
});

test("numbers are shown to the digits of their step, with a real minus", () => {
  expect(shownValue(control({ step: 0.01 }), 49)).toBe("49.00");
  expect(shownValue(control({ step: 0.5 }), 3)).toBe("3.0");
  expect(shownValue(control({ step: 0.01, low: -1 }), -0.001)).toBe("0.00");
  expect(shownValue(control({ step: 0.5, low: -9 }), -3)).toBe("−3.0");
  expect(cents(-27.4)).toBe("−27 ¢");
  expect(cents(3.14)).toBe("+3.1 ¢");
  expect(cents(-0.04)).toBe("±0.0 ¢");
  expect(decibels(-0.04)).toBe("0.0 dB");
  expect(decibels(-3)).toBe("−3.0 dB");
});
