import { expect, test } from "vitest";
import type { TrackState } from "../api/client";
import { editStem, stemsOf, withoutPart } from "./parts";
import { withChord, withStem } from "./stems";

const STATE = {
  parts: [
    { id: "kick", part: "hit", name: "Kick" },
    { id: "hat", part: "hit", name: "Hat" },
    { id: "bass", part: "line", name: "bass" },
  ],
  duckings: [{ id: "main", triggers: ["kick"], targets: [], on: true }],
} as unknown as TrackState;
const SHEETS = {
  stem: { controls: [{ name: "begin_ms", default: 0 }], choices: [] },
  place: { controls: [{ name: "gain_db", default: 0 }], choices: [] },
} as never;
const names = (state: TrackState) => stemsOf(state).map(({ name }) => name);

test("a stem is called as its file, unless something is called so already", () => {
  const add = (file: string) => withStem(SHEETS, "a".repeat(64), file);
  let state = add("Slow pad.flac")(STATE);
  state = add("slow pad.wav")(state);
  state = add("hat.wav")(state);
  state = add(".wav")(state);
  expect(names(state)).toEqual(["Slow pad", "slow pad 2", "hat 2", "stem"]);
  expect(stemsOf(state)[0]).toMatchObject({ begin_ms: 0, mute: false, place: { gain_db: 0 } });
  expect(new Set(stemsOf(state).map(({ id }) => id)).size).toBe(4);
  for (let n = 0; n < 40; n++) state = add("more.wav")(state);
  expect(state.parts).toHaveLength(40);
});

test("one stem is changed or taken away, the others stay", () => {
  const two = withStem(SHEETS, "b", "two.wav")(withStem(SHEETS, "a", "one.wav")(STATE));
  const [one, other] = stemsOf(two);
  const muted = editStem(other!.id, (old) => ({ ...old, mute: true }))(two);
  expect(stemsOf(muted).map(({ mute }) => mute)).toEqual([false, true]);
  expect(names(withoutPart(one!.id)(two))).toEqual(["two"]);
});

test("a held chord is a part of its own, in the middle", () => {
  const state = withChord("chord", SHEETS)(STATE);
  expect(state.parts[3]).toMatchObject({
    id: "chord",
    part: "chord",
    name: "Pad",
    place: { width: 0 },
  });
});
