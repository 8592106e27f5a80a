import type { HitStep, PatternNote } from "../api/client";

/** Places per bar of the grids that can be drawn on. */
export const GRIDS = {
  eighths: 8,
  sixteenths: 16,
  "thirty-seconds": 32,
  "eighth triplets": 12,
  "sixteenth triplets": 24,
} as const;
export type Grid = keyof typeof GRIDS;

const PULSES = 480;
export const onPulse = (beats: number) => Math.round(beats * PULSES) / PULSES;
const near = (a: number, b: number) => Math.abs(a - b) < 1 / PULSES;

/** How a note lies to its chord root, in a word. */
export function relation(semitones: number): string {
  const words: Record<number, string> = {
    0: "root",
    7: "5th",
    12: "oct",
    "-12": "−oct",
    24: "2 oct",
  };
  return words[semitones] ?? (semitones > 0 ? `+${semitones}` : `−${-semitones}`);
}

interface Placed {
  at: number;
}

export const inOrder = <T extends Placed>(notes: T[]): T[] =>
  [...notes].sort((a, b) => a.at - b.at);

/** The same pattern over another number of bars: repeated where it grows, cut where it shrinks. */
export function overBars<T extends Placed>(notes: T[], from: number, to: number): T[] {
  const turns = Math.ceil(to / from);
  const all = Array.from({ length: turns }, (_, turn) =>
    notes.map((note) => ({ ...note, at: onPulse(note.at + 4 * from * turn) })),
  ).flat();
  return inOrder(all.filter((note) => note.at < 4 * to));
}

export const noteAt = <T extends Placed>(notes: T[], at: number): T | undefined =>
  notes.find((note) => near(note.at, at));

/** No hand strikes twice within this: a place is taken as far as it reaches. */
const ONE_STROKE_MS = 30;

/** How far from a place a note is still the one of that place, in beats. */
export const reachOf = (step: number, beatMs: number) =>
  Math.min(ONE_STROKE_MS / beatMs, 0.49 * step);

/** The note of a place: the nearest one within reach, on the grid or beside it. */
export function noteNear<T extends Placed>(notes: T[], at: number, reach: number): T | undefined {
  const inside = notes.filter((note) => Math.abs(note.at - at) <= reach + 0.5 / PULSES);
  return inside.sort((a, b) => Math.abs(a.at - at) - Math.abs(b.at - at))[0];
}

/** What lies between the places of a bar, beyond their reach. */
export const between = <T extends Placed>(notes: T[], places: number[], reach: number): T[] => {
  const [first = 0, second = first + 4] = places;
  const from = first - reach;
  const to = (places.at(-1) ?? first) + (second - first) - reach;
  return notes.filter(
    ({ at }) => at >= from && at < to && places.every((place) => Math.abs(place - at) > reach),
  );
};

/** With a note where there was none, or without those that lie within reach of it. */
export function toggled<T extends Placed>(notes: T[], fresh: T, reach = 1 / PULSES): T[] {
  const here = noteNear(notes, fresh.at, reach);
  return here ? notes.filter((note) => note !== here) : inOrder([...notes, fresh]);
}

export function changedAt<T extends Placed>(notes: T[], at: number, change: (old: T) => T): T[] {
  return inOrder(notes.map((note) => (near(note.at, at) ? change(note) : note)));
}

/** A note moved by some beats, as far as the pattern and its neighbours let it. */
export function moved<T extends Placed>(notes: T[], at: number, by: number, bars: number): T[] {
  const index = notes.findIndex((note) => near(note.at, at));
  const one = notes[index];
  if (!one) return notes;
  const low = (notes[index - 1]?.at ?? -1 / PULSES) + 1 / PULSES;
  const high = (notes[index + 1]?.at ?? 4 * bars) - 1 / PULSES;
  const to = onPulse(Math.min(high, Math.max(low, one.at + by)));
  return notes.map((note) => (note === one ? { ...note, at: to } : note));
}

/** The nearest place of a grid. */
export const snapped = (at: number, step: number) => onPulse(Math.round(at / step) * step);

/** The note that is still held at a place where none begins. */
export const heldAt = (notes: PatternNote[], at: number): PatternNote | undefined =>
  notes.find((note, n) => {
    const end = Math.min(note.at + note.beats, notes[n + 1]?.at ?? Infinity);
    return note.at < at - 1 / PULSES && end > at + 0.02;
  });

export const longer = (note: PatternNote, by: number): PatternNote => ({
  ...note,
  beats: onPulse(Math.min(16, Math.max(0.05, note.beats + by))),
});

export const higher = (note: PatternNote, by: number): PatternNote => ({
  ...note,
  semitones: Math.min(24, Math.max(-24, note.semitones + by)),
});

export const stronger = <T extends { velocity: number }>(step: T, by: number): T => ({
  ...step,
  velocity: Math.round(100 * Math.min(1, Math.max(0.1, step.velocity + by))) / 100,
});

/** How far a note lies from the nearest place, as it is said: +12 ms late, nothing on it. */
export function offGrid(at: number, step: number, beatMs: number): string {
  const ms = Math.round((at - snapped(at, step)) * beatMs);
  return ms === 0 ? "" : `${ms > 0 ? "+" : "−"}${Math.abs(ms)}`;
}

export const freshNote = (at: number, beats: number): PatternNote => ({
  at: onPulse(at),
  beats: onPulse(0.9 * beats),
  semitones: 0,
  velocity: 1,
  glide: false,
});

export const freshStep = (at: number): HitStep => ({ at: onPulse(at), velocity: 1 });
