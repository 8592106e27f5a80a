import { expect, test } from "vitest";
import { heardOf } from "./heard";

const PLAIN = [
  { part: "k", side: "kick" },
  { part: "b", side: "bass" },
  { part: "hat", side: "rest" },
] as const;
const WITH_SUM = [...PLAIN, { part: "the-sum", side: "sum" }] as const;
const ask = (
  parts: readonly (typeof WITH_SUM)[number][],
  part: "both" | "all" | "kick",
  solo?: string,
) => heardOf({ part, solo: solo ?? null }, [...parts]);

test("all is every part, or the sum where something is done to it", () => {
  expect(ask(PLAIN, "all")).toEqual(["k", "b", "hat"]);
  expect(ask(WITH_SUM, "all")).toEqual(["the-sum"]);
});

test("kick and bass are heard before the sum", () => {
  expect(ask(WITH_SUM, "both")).toEqual(["k", "b"]);
  expect(ask(WITH_SUM, "kick")).toEqual(["k"]);
});

test("one part alone is heard before the sum, the sum alone is everything", () => {
  expect(ask(WITH_SUM, "both", "hat")).toEqual(["hat"]);
  expect(ask(WITH_SUM, "kick", "the-sum")).toEqual(["the-sum"]);
  expect(ask(PLAIN, "kick", "the-sum")).toEqual(["k", "b", "hat"]);
  expect(ask(PLAIN, "all", "muted")).toEqual([]);
});
