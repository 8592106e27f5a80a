import { expect, test } from "vitest";
import { loopChanges, swingChanges } from "./swing";

test("another swing cuts a loop at its strokes, at the tempo that it has", () => {
  const asItIs = { fit: "as it is", swing: "as it is" };
  expect(loopChanges(asItIs, { swing: "its own" }, 126)).toEqual({
    swing: "its own",
    fit: "by slices",
    own_bpm: 126,
  });
  // What was fitted already keeps its tempo.
  const resampled = { fit: "by resampling", swing: "as it is" };
  expect(loopChanges(resampled, { swing: "its own" }, 126)).toEqual({
    swing: "its own",
    fit: "by slices",
  });
  expect(loopChanges({ fit: "by slices" }, { swing: "its own" }, 126)).toEqual({
    swing: "its own",
  });
});

test("what is not cut any more swings as it is", () => {
  const cut = { fit: "by slices", swing: "its own" };
  expect(loopChanges(cut, { fit: "by resampling" }, 126)).toEqual({
    fit: "by resampling",
    swing: "as it is",
  });
  expect(loopChanges(cut, { own_bpm: 90 }, 126)).toEqual({ own_bpm: 90 });
});

test("a swing that is set is a swing of its own", () => {
  expect(swingChanges({ swing_percent: 60 })).toEqual({ swing_percent: 60, swing: "its own" });
  expect(swingChanges({ swing: "the track’s" })).toEqual({ swing: "the track’s" });
  expect(loopChanges({ fit: "as it is" }, { swing_percent: 60 }, 126)).toEqual({
    swing_percent: 60,
    swing: "its own",
    fit: "by slices",
    own_bpm: 126,
  });
});
