import { expect, test } from "vitest";
import type { TrackState } from "../api/client";
import { MOST_PARTS } from "../api/limits";
import * as parts from "./parts";

const STATE = {
  sum: { id: "the-sum", part: "sum", name: "Sum", stages: [] },
  parts: [
    { id: "kick", part: "hit", name: "Kick", steps: [], mute: false },
    { id: "hat", part: "hit", name: "Hat", steps: [], mute: false },
    { id: "bass", part: "line", name: "bass", mute: false },
    { id: "group", part: "outputs", name: "Group", sources: [{ of: "hat" }, { of: "send" }] },
    { id: "send", part: "outputs", name: "Send", sources: [{ of: "kick" }, { of: "hat" }] },
  ],
  duckings: [
    {
      id: "main",
      triggers: ["kick"],
      targets: [{ part: "bass", share: 1 }],
      on: true,
      rate: "none",
    },
    {
      id: "hats",
      triggers: ["hat"],
      targets: [{ part: "bass", share: 1 }],
      on: true,
      rate: "none",
    },
    { id: "both", triggers: ["hat"], targets: [{ part: "hat", share: 1 }], on: true, rate: "1/8" },
  ],
} as unknown as TrackState;
const ducking = (state: TrackState, id: string) => state.duckings.find((one) => one.id === id);

test("the first hit is the kick, and parts are told by what they are", () => {
  expect(parts.kickOf(STATE).id).toBe("kick");
  expect(parts.hitsOf(STATE).map(({ id }) => id)).toEqual(["kick", "hat"]);
  expect(parts.voicesOf(STATE).map(({ id }) => id)).toEqual(["bass"]);
  expect(parts.outputsOf(STATE).map(({ id }) => id)).toEqual(["group", "send"]);
  expect(parts.hitOf(STATE, "gone").id).toBe("kick");
});

test("what a group is made from goes down to the last part", () => {
  expect([...parts.madeFrom(STATE, "hat")]).toEqual(["hat"]);
  expect([...parts.madeFrom(STATE, "send")].sort()).toEqual(["hat", "kick", "send"]);
  expect([...parts.madeFrom(STATE, "group")].sort()).toEqual(["group", "hat", "kick", "send"]);
});

test("a part that goes leaves groups and duckings, and what nothing starts any more is off", () => {
  const gone = parts.withoutPart("hat")(STATE);
  expect(gone.parts.map(({ id }) => id)).toEqual(["kick", "bass", "group", "send"]);
  expect(parts.outputsOf(gone).map(({ sources }) => sources.map(({ of }) => of))).toEqual([
    ["send"],
    ["kick"],
  ]);
  expect(ducking(gone, "main")).toEqual(ducking(STATE, "main"));
  expect(ducking(gone, "hats")).toMatchObject({ triggers: [], on: false });
  // A note value goes on starting it.
  expect(ducking(gone, "both")).toMatchObject({ triggers: [], targets: [], on: true });
});

test("a new line is turned down by the kick, any other part is not", () => {
  const line = { id: "mid", part: "line", name: "mid" } as unknown as parts.OwnPart;
  const chord = { id: "pad", part: "chord", name: "Pad" } as unknown as parts.OwnPart;
  const more = parts.withPart(chord)(parts.withPart(line)(STATE));
  expect(parts.mainDucking(more).targets.map(({ part }) => part)).toEqual(["bass", "mid"]);
  expect(ducking(more, "hats")).toEqual(ducking(STATE, "hats"));
  let full = STATE;
  for (let n = 0; n < 50; n++) full = parts.withPart({ ...chord, id: `pad-${n}` })(full);
  expect(full.parts).toHaveLength(MOST_PARTS);
});

test("a name is free unless another part has it, however it is written", () => {
  expect(parts.freeName(STATE, "Snare")).toBe("Snare");
  expect(parts.freeName(STATE, "hat")).toBe("hat 2");
  // A part may keep its own name.
  expect(parts.freeName(STATE, "Hat", "hat")).toBe("Hat");
});

test("one ducking and one part change, the others stay the same objects", () => {
  const turned = parts.editDucking("hats", { on: false })(STATE);
  expect(ducking(turned, "hats")).toMatchObject({ on: false, triggers: ["hat"] });
  expect(ducking(turned, "main")).toBe(STATE.duckings[0]);
  const muted = parts.editPart("bass", { mute: true })(STATE);
  expect(muted.parts.map((part) => part === STATE.parts.find(({ id }) => id === part.id))).toEqual([
    true,
    true,
    false,
    true,
    true,
  ]);
  const named = parts.editHit("hat", (old) => ({ ...old, name: "Shaker" }))(STATE);
  expect(parts.nameOf(named, "hat")).toBe("Shaker");
  // An id of another kind of part changes nothing.
  expect(parts.editHit("bass", (old) => ({ ...old, name: "x" }))(STATE)).toEqual(STATE);
});

test("the sum is found and changed as any part, and is none of them", () => {
  expect(parts.everything(STATE).at(-1)?.id).toBe("the-sum");
  expect(parts.nameOf(STATE, "the-sum")).toBe("Sum");
  const after = parts.editPart("the-sum", { stages: [{ stage: "limit" }] as never })(STATE);
  expect(after.sum.stages).toHaveLength(1);
  expect(after.parts).toEqual(STATE.parts);
});

test("a part of any kind is renamed, and nothing else changes", () => {
  for (const id of ["kick", "bass", "group"]) {
    const after = parts.renamed(id, "New")(STATE);
    expect(parts.nameOf(after, id)).toBe("New");
    expect(after.parts.filter((part) => part.id !== id)).toEqual(
      STATE.parts.filter((part) => part.id !== id),
    );
  }
  expect(parts.renamed("gone", "New")(STATE).parts).toEqual(STATE.parts);
});
