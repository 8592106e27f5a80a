import type { Chord, ControlSheet, Outputs, Stem } from "../api/client";
import { defaults, placeOf } from "./edits";
import { freeName, newId, withPart, type Edit } from "./parts";

/** A stem more, called as the file that has been read. */
export const withStem =
  (sheets: Record<string, ControlSheet>, audio: string, file: string): Edit =>
  (old) => {
    const plain =
      file
        .replace(/\.[^.]*$/, "")
        .slice(0, 34)
        .trim() || "stem";
    const stem = {
      ...defaults(sheets["stem"]),
      id: newId(),
      part: "stem",
      name: freeName(old, plain),
      audio,
      silent: [],
      mute: false,
      stages: [],
      after: [],
      moves: [],
      place: placeOf(sheets),
    };
    return withPart(stem as unknown as Stem)(old);
  };

/** A held chord that stands in for a pad, so that duckings can be heard before there is one. */
export const withChord =
  (id: string, sheets: Record<string, ControlSheet>): Edit =>
  (old) =>
    withPart({
      id,
      part: "chord",
      name: freeName(old, "Pad"),
      mute: false,
      stages: [],
      after: [],
      moves: [],
      place: placeOf(sheets, 0),
    } as Chord)(old);

/** Outputs of other parts: a copy, a send or a group, by what is taken of them. */
export const withOutputs =
  (id: string, sheets: Record<string, ControlSheet>): Edit =>
  (old) =>
    withPart({
      id,
      part: "outputs",
      name: freeName(old, "Group"),
      mute: false,
      sources: [],
      stages: [],
      after: [],
      moves: [],
      place: placeOf(sheets),
    } as Outputs)(old);
