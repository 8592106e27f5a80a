import { expect, test } from "vitest";
import type { TrackState } from "../api/client";
import { editStem, MOST_STEMS, withoutStem, withStem } from "./stems";

const STATE = {
  kick: { name: "Kick" },
  hits: [{ name: "Hat" }],
  bass: { kind: "made" },
  bass_mute: false,
  lines: [],
  stems: [],
} as unknown as TrackState;
const SHEETS = { stem: { controls: [{ name: "level_db", default: 0 }], choices: [] } } as never;
const names = (state: TrackState) => state.stems.map(({ name }) => name);

test("a stem is called as its file, unless something is called so already", () => {
  const add = (file: string) => withStem(SHEETS, "a".repeat(64), file);
  let state = add("Slow pad.flac")(STATE);
  state = add("slow pad.wav")(state);
  state = add("hat.wav")(state);
  state = add(".wav")(state);
  expect(names(state)).toEqual(["Slow pad", "slow pad 2", "hat 2", "stem"]);
  expect(state.stems[0]).toMatchObject({ level_db: 0, mute: false });
  for (let n = 0; n < 5; n++) state = add("more.wav")(state);
  expect(state.stems).toHaveLength(MOST_STEMS);
});

test("one stem is changed or taken away, the others stay", () => {
  const two = withStem(SHEETS, "b", "two.wav")(withStem(SHEETS, "a", "one.wav")(STATE));
  expect(editStem(1, { mute: true })(two).stems.map(({ mute }) => mute)).toEqual([false, true]);
  expect(names(withoutStem(0)(two))).toEqual(["two"]);
});
