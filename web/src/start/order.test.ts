import { expect, test } from "vitest";
import type { ListedTrack } from "../api/client";
import { byName, found, latestFirst, weighs } from "./order";

const track = (id: number, name: string, changed_at: string): ListedTrack => ({
  id,
  name,
  made_at: changed_at,
  changed_at,
  deleted_at: null,
});
const TRACKS = [
  track(1, "Track 10", "2026-01-02T00:00:00.000Z"),
  track(2, "track 9", "2026-01-03T00:00:00.000Z"),
  track(3, "Low road", "2026-01-01T00:00:00.000Z"),
];
const ids = (tracks: ListedTrack[]) => tracks.map(({ id }) => id);

test("tracks are sorted by their last change, or by name with numbers as numbers", () => {
  expect(ids(latestFirst(TRACKS))).toEqual([2, 1, 3]);
  expect(ids(byName(TRACKS))).toEqual([3, 2, 1]);
});

test("a search finds every word, in any case", () => {
  expect(ids(found(TRACKS, "TRACK 1"))).toEqual([1]);
  expect(ids(found(TRACKS, "road low"))).toEqual([3]);
  expect(ids(found(TRACKS, ""))).toEqual([1, 2, 3]);
  expect(found(TRACKS, "high")).toEqual([]);
});

test("bytes are said in kB and MB", () => {
  expect(weighs(900)).toBe("1 kB");
  expect(weighs(2_340_000)).toBe("2.3 MB");
  expect(weighs(23_400_000)).toBe("23 MB");
});
