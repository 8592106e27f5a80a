import { useCallback, useMemo, useState } from "react";
import type { ControlSheet, TrackState } from "../api/client";
import { judging, type Room, type RoomQuestion, type Through } from "../api/judging";
import type { StepId } from "../steps/steps";
import { useLatest } from "../track/latest";
import { useAddress } from "./useAddress";

/** How places were last set, by their names. */
const SET = "juglant-rooms";

export interface InRoom {
  /** The place at hand, and the names of all stand-ins. */
  room: Room;
  names: string[];
  choose: (room: Room) => void;
  /** A stand-in by its name, as it was last set. */
  named: (name: string) => Room;
  /** What is listened through; null without a place. */
  through: Through | null;
  hear: (on: boolean) => void;
  by: Through["by"];
  setBy: (by: Through["by"]) => void;
  /** How loud the finished track is to be. */
  lufs: number;
  setLufs: (lufs: number) => void;
}

const askRoom = (question: RoomQuestion) => judging.room(question);

function remembered(): Record<string, Room> {
  try {
    return JSON.parse(localStorage.getItem(SET) ?? "{}") as Record<string, Room>;
  } catch {
    return {};
  }
}

/** The place a low end is judged in: chosen once, heard in every step, looked at in its own. */
export function useRoom(controls: Record<string, ControlSheet>): InRoom {
  const { asked, put } = useAddress();
  const [kept, keep] = useState(remembered);
  const [by, setBy] = useState<Through["by"]>("loudness");
  const loudness = controls["judging"]?.controls.find(({ name }) => name === "lufs");
  const [lufs, setLufs] = useState(loudness?.default ?? 0);
  const names = useMemo(
    () =>
      Object.keys(controls)
        .filter((name) => name.startsWith("room:"))
        .map((name) => name.slice("room:".length)),
    [controls],
  );
  const named = useCallback(
    (name: string): Room => {
      const values = (controls[`room:${name}`]?.controls ?? []).map((one) => [
        one.name,
        one.default,
      ]);
      // What was set before a control came, or went, is filled up, or left out.
      const old = (kept[name] ?? {}) as Record<string, unknown>;
      const now = values.map(([field, value]) => [field, old[String(field)] ?? value]);
      return { room: name, ...Object.fromEntries(now) } as Room;
    },
    [controls, kept],
  );
  const wished = asked.get("room") ?? "club";
  const room = useMemo(() => {
    if (names.includes(wished)) return named(wished);
    return kept["own"]?.room === "own" && wished === "own" ? kept["own"] : named("club");
  }, [kept, named, names, wished]);
  const choose = useCallback(
    (next: Room) => {
      keep((old) => {
        const all = { ...old, [next.room]: next };
        localStorage.setItem(SET, JSON.stringify(all));
        return all;
      });
      put("room", next.room);
    },
    [put],
  );
  const heard = asked.get("heard") === "there";
  const through = useMemo(() => (heard ? { room, by } : null), [heard, room, by]);
  const hear = useCallback((on: boolean) => put("heard", on ? "there" : null), [put]);
  return {
    room,
    names,
    choose,
    named,
    through,
    hear,
    by,
    setBy,
    lufs,
    setLufs,
  };
}

/** What becomes of a state in the place at hand, in the step that is about it. */
export function useRoomView(shown: TrackState, { room, lufs }: InRoom, step: StepId) {
  const question = useMemo(
    () => (step === "room" ? { state: shown, room, lufs } : null),
    [lufs, room, shown, step],
  );
  const found = useLatest(question, askRoom);
  // What was found in a place is not told where nobody looks at one.
  return question === null ? { ...found, data: null } : found;
}
