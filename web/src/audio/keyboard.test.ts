import { expect, test } from "vitest";
import { keyOf, SimulatedKeyboard, type Key } from "./keyboard";

// MIDI 1.0 Detailed Specification, table II: channel voice messages.
test("note on, note off, and note on without velocity", () => {
  expect(keyOf(Uint8Array.of(0x93, 36, 127), 5)).toEqual({
    midi: 36,
    velocity: 1,
    down: true,
    at: 5,
  });
  expect(keyOf(Uint8Array.of(0x83, 36, 64), 6)?.down).toBe(false);
  expect(keyOf(Uint8Array.of(0x93, 36, 0), 7)?.down).toBe(false);
});

test("pedals, bends and clocks are no keys", () => {
  for (const data of [[0xb0, 64, 127], [0xe0, 0, 64], [0xf8], []])
    expect(keyOf(Uint8Array.from(data), 0)).toBeNull();
});

test("the simulated keyboard sends what a real one would", () => {
  const heard: Key[] = [];
  const keys = new SimulatedKeyboard((key) => heard.push(key));
  keys.press(40, 0.5, 10);
  keys.lift(40, 90);
  expect(heard.map(({ midi, down, at }) => [midi, down, at])).toEqual([
    [40, true, 10],
    [40, false, 90],
  ]);
  expect(heard[0]?.velocity).toBeCloseTo(0.5, 1);
});
