import { expect, test } from "vitest";
import * as pattern from "./pattern";

const notes = [pattern.freshNote(0, 1), pattern.freshNote(2.5, 0.25)];

test("a pattern that grows repeats and one that shrinks is cut", () => {
  const two = pattern.overBars(notes, 1, 2);
  expect(two.map((note) => note.at)).toEqual([0, 2.5, 4, 6.5]);
  expect(pattern.overBars(two, 2, 1)).toEqual(notes);
  expect(pattern.overBars(two, 2, 3).map((note) => note.at)).toEqual([0, 2.5, 4, 6.5, 8, 10.5]);
});

test("a place is switched on and off, triplets included", () => {
  const third = pattern.freshNote(1 / 3, 1 / 3);
  const more = pattern.toggled(notes, third);
  expect(more.map((note) => note.at)).toEqual([0, 160 / 480, 2.5]);
  expect(pattern.toggled(more, pattern.freshNote(0.3333, 0.1))).toEqual(notes);
});

test("a held note ends where it ends or where the next begins", () => {
  const long = [{ ...notes[0]!, beats: 4 }, notes[1]!];
  expect(pattern.heldAt(long, 1)).toBe(long[0]);
  expect(pattern.heldAt(long, 0)).toBeUndefined();
  expect(pattern.heldAt(long, 3)).toBeUndefined();
});

test("what is changed stays within its limits", () => {
  const note = notes[0]!;
  expect(pattern.higher(note, 30).semitones).toBe(24);
  expect(pattern.longer(note, -9).beats).toBe(24 / 480);
  expect(pattern.stronger({ at: 0, velocity: 0.15 }, -0.1).velocity).toBe(0.1);
  expect(pattern.changedAt(notes, 2.5, (one) => pattern.higher(one, 7))[1]!.semitones).toBe(7);
});

test("relations have names", () => {
  expect([0, 7, 12, -12, 3, -2].map(pattern.relation)).toEqual([
    "root",
    "5th",
    "oct",
    "−oct",
    "+3",
    "−2",
  ]);
});

test("a place is taken as far as a hand reaches, and no second stroke lands within 30 ms", () => {
  const beat = 500;
  const steps = [{ at: 0.02, velocity: 1 }, pattern.freshStep(1), { at: 1.62, velocity: 0.5 }];
  const reach = pattern.reachOf(0.25, beat);
  expect(reach * beat).toBeCloseTo(30);
  expect(pattern.noteNear(steps, 0, reach)?.at).toBe(0.02);
  expect(pattern.toggled(steps, pattern.freshStep(0), reach).map(({ at }) => at)).toEqual([
    1, 1.62,
  ]);
  // On a fine grid a place reaches no further than half way to the next.
  expect(pattern.reachOf(0.05, beat)).toBeCloseTo(0.0245);
  const places = Array.from({ length: 16 }, (_, n) => n / 4);
  expect(pattern.between(steps, places, reach).map(({ at }) => at)).toEqual([1.62]);
  expect(pattern.offGrid(0.02, 0.25, beat)).toBe("+10");
  expect(pattern.offGrid(1.98, 0.25, beat)).toBe("−10");
  expect(pattern.offGrid(1, 0.25, beat)).toBe("");
});

test("a stroke is nudged between its neighbours and within the pattern", () => {
  const steps = [pattern.freshStep(0), pattern.freshStep(1), pattern.freshStep(2)];
  const at = (notes: { at: number }[]) => notes.map((note) => note.at);
  expect(at(pattern.moved(steps, 1, 0.01, 1))).toEqual([0, 485 / 480, 2]);
  expect(at(pattern.moved(steps, 1, 3, 1))).toEqual([0, 959 / 480, 2]);
  expect(at(pattern.moved(steps, 0, -1, 1))).toEqual([0, 1, 2]);
  expect(at(pattern.moved(steps, 2, 9, 1))).toEqual([0, 1, 1919 / 480]);
  expect(pattern.snapped(1.62, 0.25)).toBe(1.5);
});
