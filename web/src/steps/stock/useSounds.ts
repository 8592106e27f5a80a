import { useEffect, useRef, useState } from "react";
import { api, type Fit, type Sound, type StockWish, type TrackState } from "../../api/client";

export type Order = "fit" | "name" | "likeness";

export interface Asked {
  order: Order;
  wish: StockWish;
  part: string;
  weights: Record<string, number>;
  /** Raised to ask once more, for the track as it is now. */
  turn: number;
}

export interface Found {
  sounds: Sound[];
  fits: ReadonlyMap<string, Fit>;
  /** How many are yet to be measured in the loop. */
  left: number;
  error: string | null;
}

const NONE: Found = { sounds: [], fits: new Map(), left: 0, error: null };
/** What is typed rests for so long before it is asked for. */
const RESTS_MS = 150;

/** The name of its file. */
export const fileOf = ({ path }: Sound) => path.slice(path.lastIndexOf("/") + 1);

/** The best fit first; what was measured stands before what was only ranked of the same. */
export const ordered = (sounds: Sound[], fits: ReadonlyMap<string, Fit>): Sound[] =>
  fits.size === 0
    ? sounds
    : [...sounds].sort((a, b) => {
        const [one, other] = [fits.get(a.hash), fits.get(b.hash)];
        const measured = Number(other?.measured ?? false) - Number(one?.measured ?? false);
        return measured || (other?.fit ?? 0) - (one?.fit ?? 0);
      });

/** Sounds of the stock, as they come: ranked at once, re-ordered as each is measured in the loop. */
export function useSounds(state: TrackState, asked: Asked): Found {
  const [found, setFound] = useState<Found>(NONE);
  const now = useRef(state);
  useEffect(() => {
    now.current = state;
  });
  useEffect(() => {
    const hangUp = new AbortController();
    const failed = (error: Error) => {
      if (!hangUp.signal.aborted) setFound((old) => ({ ...old, left: 0, error: error.message }));
    };
    const ask = () => {
      if (asked.order !== "fit") {
        api
          .findSounds(asked.wish)
          .then((sounds) => {
            if (!hangUp.signal.aborted) setFound({ ...NONE, sounds });
          })
          .catch(failed);
        return;
      }
      const { wish, part, weights } = asked;
      api
        .fitSounds(
          { state: now.current, part, wish, weights },
          ({ sounds, fits, left }) =>
            setFound((old) => {
              const all = new Map(sounds ? [] : old.fits);
              for (const one of fits) all.set(one.hash, one);
              return { sounds: sounds ?? old.sounds, fits: all, left, error: null };
            }),
          hangUp.signal,
        )
        .catch(failed);
    };
    const timer = setTimeout(ask, RESTS_MS);
    return () => {
      clearTimeout(timer);
      hangUp.abort();
    };
  }, [asked]);
  return found;
}
