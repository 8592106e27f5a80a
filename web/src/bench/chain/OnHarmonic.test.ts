import { expect, test } from "vitest";
import type { BriefFacts } from "../../api/client";
import { rootOf } from "./OnHarmonic";

const rung = (note: string, hz: number, is_tonic: boolean) => ({ note, hz, is_tonic });

test("the root is the lowest tonic that a bass plays", () => {
  const ladder = [rung("A0", 27.5, true), rung("C1", 32.7, false), rung("A1", 55, true)];
  expect(rootOf({ ladder } as unknown as BriefFacts)?.hz).toBe(55);
});

test("of a key without one on the ladder there is none", () => {
  expect(rootOf({ ladder: [] } as unknown as BriefFacts)).toBeUndefined();
});
