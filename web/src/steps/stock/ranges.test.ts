import { expect, test } from "vitest";
import { NO_NUMBERS, noteOf, wishOf } from "./Ranges";

test("a note is one of a key, in an octave or in any", () => {
  expect(noteOf("G1")).toEqual({ midi: 31 });
  expect(noteOf("f#")).toEqual({ note_class: 6 });
  expect(noteOf("Cb")).toEqual({ note_class: 11 });
  expect(noteOf("H1")).toBeNull();
  expect(noteOf("")).toBeNull();
});

test("only what was filled in is asked for", () => {
  expect(wishOf(NO_NUMBERS)).toEqual({});
  const ranges = { length_ms: { least: null, most: 400 }, sub_db: { least: -12, most: null } };
  expect(wishOf({ ranges, note: "G", stars: 2 })).toEqual({
    longest_ms: 400,
    ranges: { sub_db: { least: -12, most: null } },
    note_class: 7,
    stars: 2,
  });
});
