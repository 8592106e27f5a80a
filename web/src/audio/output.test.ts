import { expect, test } from "vitest";
import { LISTENING } from "../api/limits";
import { Limiter, Meter } from "./output";

const RATE = LISTENING.rate;
const sine = (hz: number, seconds: number, peak = 1, phase = 0) =>
  Float32Array.from(
    { length: seconds * RATE },
    (_, n) => peak * Math.sin((2 * Math.PI * hz * n) / RATE + phase),
  );

function limited(x: Float32Array): [Float32Array, Limiter] {
  const limiter = new Limiter(LISTENING);
  const out = x.slice();
  for (let at = 0; at < x.length; at += 128) {
    const piece = out.subarray(at, at + 128);
    limiter.process(piece, piece.slice());
  }
  return [out, limiter];
}

test("under the ceiling the limiter passes what it gets, later by its look-ahead", () => {
  const x = sine(61, 1, 10 ** (-1.01 / 20));
  const [out, limiter] = limited(x);
  expect(limiter.delay).toBe(143);
  expect(out.slice(143)).toEqual(x.slice(0, -143));
  expect(limiter.taken()).toBe(0);
});

test("nothing passes the ceiling, and what is taken is told once", () => {
  const x = sine(61, 1, 2);
  const [out, limiter] = limited(x);
  const ceiling = 10 ** (LISTENING.ceiling_db / 20);
  expect(Math.max(...out.map(Math.abs))).toBeLessThanOrEqual(ceiling * (1 + 1e-6));
  expect(limiter.taken()).toBeCloseTo(20 * Math.log10(2) - LISTENING.ceiling_db, 2);
  expect(limiter.taken()).toBe(0);
});

function read(left: Float32Array, right: Float32Array) {
  const meter = new Meter(LISTENING);
  for (let at = 0; at + 128 <= left.length; at += 128)
    meter.push(left.subarray(at, at + 128), right.subarray(at, at + 128));
  return meter.read();
}

test("a sine of 997 Hz at full level on one side is −3.01 LUFS, on both sides 0 (ITU-R BS.1770-5)", () => {
  const x = sine(997, 1);
  expect(read(x, new Float32Array(x.length)).lufs).toBeCloseTo(-3.01, 2);
  expect(read(x, x).lufs).toBeCloseTo(0, 2);
});

test("a true peak between the samples is found (EBU Tech 3341, cases 15 to 17)", () => {
  // A quarter of the rate, its samples 45° beside the peaks: they read 3 dB less.
  const x = sine(RATE / 4, 0.2, 0.5, Math.PI / 4);
  expect(Math.max(...x)).toBeLessThan(0.36);
  expect(read(x, x).dbtp).toBeGreaterThan(-6.02 - 0.4);
  expect(read(x, x).dbtp).toBeLessThan(-6.02 + 0.2);
});

test("silence is silence", () => {
  expect(read(new Float32Array(9600), new Float32Array(9600))).toEqual({ lufs: -120, dbtp: -120 });
});
