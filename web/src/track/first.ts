import type { RefObject } from "react";
import type { TrackState } from "../api/client";

/** Sound comes first: pictures wait while it is on its way, for both share the server's cores. */

/** Told of a change as soon as it is made: the state now, and the one before it. */
export type Soon = RefObject<((now: TrackState, was: TrackState) => void) | null>;

let fetching = 0;
const waiting: (() => void)[] = [];

/** Work that the ear waits for. */
export async function forTheEar<T>(work: Promise<T>): Promise<T> {
  fetching += 1;
  try {
    return await work;
  } finally {
    fetching -= 1;
    if (fetching === 0) for (const go of waiting.splice(0)) go();
  }
}

/** When no sound is waited for any more; the sound of the same change has asked by then. */
export const afterSound = () =>
  new Promise<void>((go) =>
    setTimeout(() => {
      if (fetching > 0) waiting.push(go);
      else go();
    }),
  );
