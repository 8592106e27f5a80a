import { expect, test } from "vitest";
import type { Hit, PatternNote, TrackState, Voice } from "../api/client";
import { addLine, editBass, recipeOf, withRumble, withSound } from "./lines";
import { editVoice, mainDucking, voicesOf, withoutPart } from "./parts";

const note = { at: 0, beats: 1, semitones: 0, velocity: 1, glide: false } as PatternNote;
const made = (octave: number) => ({
  kind: "made",
  recipe: { octave, choke: "none", bars: 1, pattern: [note] },
});
const sheets = {
  bass: { controls: [{ name: "drive_db", default: 4 }], choices: [] },
  rumble: { controls: [{ name: "under_db", default: 9 }], choices: [] },
  played: { controls: [{ name: "release_ms", default: 40 }], choices: [] },
  place: { controls: [{ name: "width", default: 1 }], choices: [] },
} as never;
const line = (id: string, octave: number) => ({ id, part: "line", name: id, bass: made(octave) });
const track = {
  parts: [{ id: "kick", part: "hit", name: "Kick" }, line("bass", 1), line("mid", 3)],
  duckings: [
    {
      id: "main",
      triggers: ["kick"],
      targets: [{ part: "bass", share: 1 }],
      on: true,
      rate: "none",
    },
    { id: "by-mid", triggers: ["mid"], targets: [], on: true, rate: "none" },
  ],
} as unknown as TrackState;
const mid = (state: TrackState) => voicesOf(state)[1] as Voice;

test("a line is changed in its place, and a file has no notes to change", () => {
  const higher = editBass("mid", { octave: 2 })(track);
  expect(voicesOf(higher).map((voice) => recipeOf(voice)?.octave)).toEqual([1, 2]);
  const file = { kind: "imported", audio: "a".repeat(64), name: "x.wav", level_db: 0 };
  const filed = editVoice("mid", (old) => ({ ...old, bass: file }) as Voice)(track);
  expect(recipeOf(mid(filed))).toBeNull();
  expect(editBass("mid", { octave: 0 })(filed)).toEqual(filed);
});

test("another sound keeps the notes, and the hit that plays them is no part any more", () => {
  const hit = { id: "808", name: "808" } as Hit;
  const played = mid(withSound("mid", sheets, hit, [])(track));
  expect(played.bass).toMatchObject({ kind: "played", hit: { id: "", name: "808" } });
  expect(recipeOf(played)).toMatchObject({ octave: 3, pattern: [note], release_ms: 40 });
  const back = mid(withSound("mid", sheets, null, [])(track));
  expect(recipeOf(back)).toMatchObject({ octave: 3, drive_db: 4 });
});

test("a line is added under a free name, ducked by the kick, and taken away again", () => {
  const more = addLine("new", sheets, [note])(track);
  expect(voicesOf(more).map(({ name }) => name)).toEqual(["bass", "mid", "sub"]);
  expect(recipeOf(voicesOf(more)[2])).toMatchObject({ octave: 1, pattern: [note], drive_db: 4 });
  expect(mainDucking(more).targets.map(({ part }) => part)).toEqual(["bass", "new"]);
  const less = withoutPart("new")(more);
  expect(less).toEqual(track);
});

test("a ducking that nothing starts any more stays, off", () => {
  expect(withoutPart("mid")(track).duckings[1]).toMatchObject({ triggers: [], on: false });
  expect(withoutPart("bass")(track).duckings[0]).toMatchObject({ targets: [], on: true });
});

test("a rumble takes a line’s place, has no notes and starts nothing", () => {
  const rumbling = withRumble("mid", sheets)(track);
  expect(mid(rumbling).bass).toMatchObject({ kind: "rumble", under_db: 9 });
  expect(mid(rumbling).name).toBe("rumble");
  expect(recipeOf(mid(rumbling))).toBeNull();
  expect(rumbling.duckings.map(({ on }) => on)).toEqual([true, false]);
  expect(editBass("mid", { octave: 2 })(rumbling)).toEqual(rumbling);
});
