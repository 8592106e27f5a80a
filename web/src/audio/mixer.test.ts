import { expect, test } from "vitest";
import { Mixer, type Part } from "./mixer";

const FADE = 8;
const PIECE = 16;
/** Counts its own frames, from a number on. */
const counting = (from: number, frames: number) =>
  Float32Array.from({ length: frames }, (_, n) => from + n);
const part = (name: string, from: number, frames: number, key = name): Part => ({
  part: name,
  key,
  channels: [counting(from, frames)],
  gain: 1,
});

function heard(mixer: Mixer, frames: number): number[] {
  const out: number[] = [];
  while (out.length < frames) {
    const left = new Float32Array(PIECE);
    const right = new Float32Array(PIECE);
    mixer.render(left, right);
    expect([...right]).toEqual([...left]);
    out.push(...left);
  }
  return out.slice(0, frames);
}

test("all parts begin on one frame and go round without a gap", () => {
  const mixer = new Mixer(FADE);
  mixer.plan([part("kick", 0, 40), part("bass", 1000, 40)], 40);
  const expected = Array.from({ length: 128 }, (_, n) => 1000 + 2 * (n % 40));
  expect(heard(mixer, 128)).toEqual(expected);
});

test("another loop goes on in the same place of the bar, at another tempo and length", () => {
  const mixer = new Mixer(FADE);
  mixer.plan([part("kick", 0, 64)], 64, 4);
  heard(mixer, 32);
  // Two beats in: the same two beats of a slower loop of two bars.
  mixer.plan([part("record", 0, 160)], 160, 8);
  expect(mixer.at).toBe(40);
  // From beat six of it, beat two of the loop of four.
  mixer.at = 120;
  mixer.plan([part("kick", 0, 64)], 64, 4);
  expect(mixer.at).toBe(32);
});

test("what stays goes on untouched while another part is crossfaded in its place", () => {
  const mixer = new Mixer(FADE);
  const kick = part("kick", 0, 64);
  mixer.plan([kick, part("bass", 1000, 64, "one")], 64);
  heard(mixer, 16);
  mixer.plan([kick, part("bass", 5000, 64, "two")], 64);
  const out = heard(mixer, 48);
  // Behind the fade both are where they would have been all the time.
  for (let n = FADE; n < 48; n++) expect(out[n]).toBe(16 + n + 5000 + 16 + n);
  // In it the old one gives way step by step.
  for (let n = 1; n < FADE; n++) expect(out[n]).toBeGreaterThan(out[n - 1]!);
  expect(out[0]).toBeLessThan(1000 + 4000 / 4);
});

test("a part that is added while it plays is in step, and one that is taken away fades", () => {
  const mixer = new Mixer(FADE);
  const kick = part("kick", 0, 64);
  mixer.plan([kick], 64);
  heard(mixer, 32);
  mixer.plan([kick, part("hat", 2000, 64)], 64);
  expect(heard(mixer, 16)[15]).toBe(47 + 2047);
  mixer.plan([kick], 64);
  expect(heard(mixer, 16)[15]).toBe(63);
});

test("how loud parts are is changed over the fade, not at once", () => {
  const mixer = new Mixer(FADE);
  mixer.plan([{ ...part("kick", 1, 16), channels: [new Float32Array(16).fill(1)] }], 16);
  heard(mixer, 16);
  mixer.gains({ kick: 0 });
  const out = heard(mixer, 16);
  expect(out.slice(0, 4)).toEqual([7 / 8, 6 / 8, 5 / 8, 4 / 8]);
  expect(out[15]).toBe(0);
});

test("another length goes on at the same place of its own loop", () => {
  const mixer = new Mixer(FADE);
  mixer.plan([part("kick", 0, 64)], 64);
  heard(mixer, 48);
  mixer.plan([part("kick", 0, 32, "shorter")], 32);
  expect(heard(mixer, 16)[15]).toBe(31);
});

test("it stops, starts again from its beginning, and one sound is heard over it", () => {
  const mixer = new Mixer(FADE);
  mixer.plan([part("kick", 5, 64)], 64);
  heard(mixer, 16);
  mixer.stop();
  expect(mixer.playing).toBe(false);
  expect(heard(mixer, 32).slice(16)).toEqual(Array(16).fill(0));
  mixer.plan([part("kick", 5, 64)], 64);
  expect(heard(mixer, 16)[0]).toBe(5);
  mixer.once([new Float32Array(3).fill(100)]);
  expect(heard(mixer, 16).slice(0, 4)).toEqual([121, 122, 123, 24]);
});

test("what was struck under a key fades when the key is let go, and nothing else does", () => {
  const mixer = new Mixer(FADE);
  const ones = () => [new Float32Array(64).fill(1)];
  mixer.once(ones(), "held");
  mixer.once(ones(), "other");
  expect(heard(mixer, 16)[15]).toBe(2);
  mixer.release("held");
  const out = heard(mixer, 16);
  expect(out[0]).toBe(1 + 7 / 8);
  expect(out[15]).toBe(1);
});

test("the click counts every beat of the loop, the bar's higher than the others", () => {
  const rate = 8000;
  const mixer = new Mixer(FADE, rate);
  mixer.plan([{ ...part("kick", 0, 8000), channels: [new Float32Array(8000)] }], 8000);
  mixer.click([0, 2000, 4000, 6000]);
  const out = heard(mixer, 8000);
  const turns = (from: number) =>
    out.slice(from, from + 200).filter((x, n) => n > 0 && x > 0 !== out[from + n - 1]! > 0).length;
  expect(turns(0)).toBeGreaterThan(1.3 * turns(2000));
  expect(turns(4000)).toBe(turns(6000));
  expect(Math.max(...out.slice(2000, 2100))).toBeGreaterThan(0.1);
  expect(Math.max(...out.map(Math.abs))).toBeLessThan(0.19);
  mixer.click([]);
  expect(Math.max(...heard(mixer, 800))).toBe(0);
});
