import { expect, test } from "vitest";
import { NO_NUMBERS, wishOf } from "./Ranges";

test("only what was filled in is asked for", () => {
  expect(wishOf(NO_NUMBERS)).toEqual({});
  const ranges = { length_ms: { least: null, most: 400 }, sub_db: { least: -12, most: null } };
  expect(wishOf({ ranges, note: "G", stars: 2 })).toEqual({
    longest_ms: 400,
    ranges: { sub_db: { least: -12, most: null } },
    note: "G",
    stars: 2,
  });
});
