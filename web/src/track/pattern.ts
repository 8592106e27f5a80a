import type { HitStep, PatternNote } from "../api/client";

/** Places per bar of the grids that can be drawn on. */
export const GRIDS = { sixteenths: 16, "eighth triplets": 12, "sixteenth triplets": 24 } as const;
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

/** With a note where there was none, or without the one that was there. */
export function toggled<T extends Placed>(notes: T[], fresh: T): T[] {
  return noteAt(notes, fresh.at)
    ? notes.filter((note) => !near(note.at, fresh.at))
    : inOrder([...notes, fresh]);
}

export function changedAt<T extends Placed>(notes: T[], at: number, change: (old: T) => T): T[] {
  return notes.map((note) => (near(note.at, at) ? change(note) : note));
}

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

export const stronger = <T extends { strength: number }>(step: T, by: number): T => ({
  ...step,
  strength: Math.round(100 * Math.min(1, Math.max(0.1, step.strength + by))) / 100,
});

export const freshNote = (at: number, beats: number): PatternNote => ({
  at: onPulse(at),
  beats: onPulse(0.9 * beats),
  semitones: 0,
  velocity: 1,
  glide: false,
});

export const freshStep = (at: number): HitStep => ({ at: onPulse(at), strength: 1 });
