import { useEffect, useRef, type RefObject } from "react";
import type { TrackState } from "../api/client";

/** The state at hand, what of it is stored, and where gestures ended that are not stored yet. */
export interface Held {
  state: TrackState;
  saved: TrackState;
  revision: number;
  ends: TrackState[];
}

export const fresh = ({ state, revision }: { state: TrackState; revision: number }): Held => ({
  state,
  saved: state,
  revision,
  ends: [],
});

export const isDirty = ({ state, saved, ends }: Held): boolean =>
  ends.length > 0 || state !== saved;

/** What was changed since the last gesture becomes a step of its own; false where nothing was. */
export function settle(held: Held): boolean {
  if (held.state === (held.ends.at(-1) ?? held.saved)) return false;
  held.ends.push(held.state);
  return true;
}

/** From a list that the browser draws itself it may never say that the pointer is up again. */
const LISTS = "select";

/** Calls `ended` before a pointer goes down, and once it is up again; true while it is down on anything but a list. */
export function useGestures(ended: () => void): RefObject<boolean> {
  const down = useRef(false);
  useEffect(() => {
    const begin = ({ button, target }: PointerEvent) => {
      ended();
      down.current = button === 0 && target instanceof Element && target.closest(LISTS) === null;
    };
    const end = () => {
      down.current = false;
      // What the element itself does with it comes first.
      window.setTimeout(ended);
    };
    window.addEventListener("pointerdown", begin, true);
    window.addEventListener("pointerup", end, true);
    window.addEventListener("pointercancel", end, true);
    return () => {
      window.removeEventListener("pointerdown", begin, true);
      window.removeEventListener("pointerup", end, true);
      window.removeEventListener("pointercancel", end, true);
    };
  }, [ended]);
  return down;
}
