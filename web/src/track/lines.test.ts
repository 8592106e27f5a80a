import { expect, test } from "vitest";
import type { Hit, PatternNote, TrackState, Voice } from "../api/client";
import {
  addLine,
  editBass,
  editVoice,
  recipeOf,
  voicesOf,
  withRumble,
  withSound,
  withoutLine,
} from "./lines";

const note = { at: 0, beats: 1, semitones: 0, velocity: 1, glide: false } as PatternNote;
const made = (octave: number) => ({
  kind: "made",
  recipe: { octave, choke: "none", bars: 1, pattern: [note] },
});
const sheets = {
  bass: { controls: [{ name: "drive_db", default: 4 }], choices: [] },
  rumble: { controls: [{ name: "under_db", default: 9 }], choices: [] },
  played: { controls: [{ name: "release_ms", default: 40 }], choices: [] },
} as never;
const track = {
  bass: made(1),
  bass_mute: false,
  lines: [{ name: "mid", bass: made(3), mute: false }],
} as unknown as TrackState;

test("the bass is the first line and keeps its name", () => {
  expect(voicesOf(track).map(({ name }) => name)).toEqual(["bass", "mid"]);
  const renamed = editVoice(0, (old) => ({ ...old, name: "other", mute: true }))(track);
  expect(voicesOf(renamed)[0]).toMatchObject({ name: "bass", mute: true });
  expect(track.bass_mute).toBe(false);
});

test("a line is changed in its place, and a file has no notes to change", () => {
  const higher = editBass(1, { octave: 2 })(track);
  expect(voicesOf(higher).map((voice) => recipeOf(voice)?.octave)).toEqual([1, 2]);
  const file = { kind: "imported", audio: "a".repeat(64), name: "x.wav", level_db: 0 };
  const filed = editVoice(1, (old) => ({ ...old, bass: file }) as Voice)(track);
  expect(recipeOf(voicesOf(filed)[1])).toBeNull();
  expect(editBass(1, { octave: 0 })(filed)).toEqual(filed);
});

test("another sound keeps the notes", () => {
  const hit = { name: "808" } as Hit;
  const played = withSound(1, sheets, hit, [])(track).lines[0] as Voice;
  expect(played.bass).toMatchObject({ kind: "played", hit: { name: "808" } });
  expect(recipeOf(played)).toMatchObject({ octave: 3, pattern: [note], release_ms: 40 });
  const back = withSound(1, sheets, null, [])(track).lines[0] as Voice;
  expect(recipeOf(back)).toMatchObject({ octave: 3, drive_db: 4 });
});

test("lines are added under free names and taken away", () => {
  const more = addLine(sheets, [note])(track);
  expect(voicesOf(more).map(({ name }) => name)).toEqual(["bass", "mid", "sub"]);
  expect(recipeOf(more.lines[1])).toMatchObject({ octave: 1, pattern: [note], drive_db: 4 });
  expect(voicesOf(withoutLine(1)(more)).map(({ name }) => name)).toEqual(["bass", "sub"]);
});

test("a rumble takes a line’s place and has no notes", () => {
  const rumbling = withRumble(1, sheets)(track);
  expect(rumbling.lines[0]?.bass).toMatchObject({ kind: "rumble", under_db: 9 });
  expect(rumbling.lines[0]?.name).toBe("rumble");
  expect(recipeOf(rumbling.lines[0])).toBeNull();
  expect(editBass(1, { octave: 2 })(rumbling)).toEqual(rumbling);
});
