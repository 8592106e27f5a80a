import { expect, test } from "vitest";
import type { TrackState } from "../api/client";
import { fresh, isDirty, settle } from "./gestures";

const state = (name: string) => ({ name }) as unknown as TrackState;

test("every gesture that changed something is a step of its own", () => {
  const first = state("first");
  const held = fresh({ state: first, revision: 3 });
  expect(isDirty(held)).toBe(false);
  expect(settle(held)).toBe(false);
  held.state = state("second");
  expect(isDirty(held)).toBe(true);
  expect(settle(held)).toBe(true);
  expect(settle(held)).toBe(false);
  held.state = state("third");
  expect(settle(held)).toBe(true);
  expect(held.ends).toHaveLength(2);
});
