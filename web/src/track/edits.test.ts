import { expect, test } from "vitest";
import type { Hit, Layer, Source, TrackState } from "../api/client";
import {
  chainOf,
  editChain,
  editLayer,
  editSource,
  imported,
  newHit,
  plainKick,
  withRecording,
} from "./edits";
import { editHit, freeName, hitsOf } from "./parts";

const kick = { kind: "kick", recipe: { length_ms: 400, end_hz: 50 } } as unknown as Source;
const layer = (source: Source, chain: Layer["chain"] = []) =>
  ({ name: "one", job: "body", source, chain, mute: false, solo: false }) as unknown as Layer;
const hit = (name: string, ...layers: Layer[]) =>
  ({
    id: name.toLowerCase(),
    part: "hit",
    name,
    kind: "kick",
    layers,
    chain: [],
    level_db: 0,
  }) as unknown as Hit;
const state = (...hits: Hit[]) =>
  ({
    parts: [hit("Kick", layer(kick)), ...hits],
    duckings: [],
    recordings: [],
  }) as unknown as TrackState;
const sheets = {
  layer: { controls: [{ name: "gain_db", default: 0 }], choices: [] },
  velocity: { controls: [{ name: "level", default: 0.7 }], choices: [] },
  recording: { controls: [{ name: "threshold_db", default: 9 }], choices: [] },
} as never;

test("the kick is the first of the hits, and each is changed in its place", () => {
  const before = state(hit("Snare", layer(kick)), hit("Hat", layer(kick)));
  expect(hitsOf(before).map(({ name }) => name)).toEqual(["Kick", "Snare", "Hat"]);
  const louder = (old: Hit): Hit => ({ ...old, level_db: 3 });
  expect(hitsOf(editHit("kick", louder)(before)).map((one) => one.level_db)).toEqual([3, 0, 0]);
  expect(hitsOf(editHit("hat", louder)(before)).map((one) => one.level_db)).toEqual([0, 0, 3]);
  expect(hitsOf(before)[2]?.level_db).toBe(0);
});

test("a made source changes in its recipe, a file in its own fields", () => {
  const made = editSource({ end_hz: 61 })(layer(kick)).source;
  expect(made).toEqual({ kind: "kick", recipe: { length_ms: 400, end_hz: 61 } });
  const file = editSource({ shift_semitones: 2 })(layer(imported("a".repeat(64), "k.wav"))).source;
  expect(file).toMatchObject({ kind: "imported", name: "k.wav", shift_semitones: 2 });
});

test("only one layer is changed, and a chain belongs to a layer or to the hit", () => {
  const two = hit("Two", layer(kick), layer(kick));
  const muted = editLayer(1, (old) => ({ ...old, mute: true }))(two);
  expect(muted.layers.map(({ mute }) => mute)).toEqual([false, true]);
  const stage = { stage: "level", bypass: false } as unknown as Layer["chain"][number];
  const shaped = editChain(1, (old) => [...old, stage])(two);
  expect([chainOf(shaped, 0), chainOf(shaped, 1), chainOf(shaped, null)]).toEqual([
    [],
    [stage],
    [],
  ]);
  expect(chainOf(editChain(null, () => [stage])(two), null)).toEqual([stage]);
  expect(chainOf(two, 7)).toEqual([]);
});

test("the end of a kick can be dragged where there is nothing but the kick", () => {
  expect(plainKick(hit("Plain", layer(kick)))).toMatchObject({ length_ms: 400 });
  expect(plainKick(hit("Two", layer(kick), layer(kick)))).toBeNull();
  expect(plainKick(hit("File", layer(imported("b".repeat(64), "x.wav"))))).toBeNull();
});

test("a new hit has a name of its own, whatever is there already", () => {
  const full = state(hit("Snare", layer(kick)), hit("snare 2", layer(kick)));
  expect(freeName(full, "Snare")).toBe("Snare 3");
  expect(freeName(full, "Clap")).toBe("Clap");
  const made = newHit(full, sheets, "snare", "Snare", kick);
  expect(made).toMatchObject({ name: "Snare 3", kind: "snare", velocity: { level: 0.7 } });
  expect(made.layers[0]).toMatchObject({ gain_db: 0, mute: false, chain: [] });
  expect(made.id).not.toBe(newHit(full, sheets, "snare", "Snare", kick).id);
  const named = newHit(full, sheets, "tom", "Tom", imported("c".repeat(64), "crate.wav"));
  expect(named.layers[0]?.name).toBe("crate.wav");
});

test("a recording is added once", () => {
  const once = withRecording(state(), sheets, "d".repeat(64), "shed.wav");
  expect(once.recordings).toMatchObject([{ name: "shed.wav", threshold_db: 9, takes: [] }]);
  expect(withRecording(once, sheets, "d".repeat(64), "again.wav")).toBe(once);
});

test("what an ear said of a note is forgotten with the sound it said it of", () => {
  const heard = { ...hit("File", layer(imported("a".repeat(64), "k.wav"))), heard_hz: 58.3 };
  const louder = editLayer(0, (old) => ({ ...old, gain_db: -3 }))(heard);
  expect(louder.heard_hz).toBe(58.3);
  const higher = editLayer(0, editSource({ shift_semitones: 2 }))(heard);
  expect(higher.heard_hz).toBeNull();
});
