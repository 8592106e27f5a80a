import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, type Hit, type Stroke, type TrackState } from "../api/client";
import { Player, QUIETLY, type Hearing, type Pass } from "../audio/player";
import { Sounds } from "../audio/sounds";
import { Latest, useLatest } from "../track/latest";

/** A state that has stood still for so long is fetched before anyone plays it. */
const STILL_MS = 500;

export interface Listening {
  player: Player;
  playing: boolean;
  hearing: Hearing;
  hear: (changes: Partial<Hearing>) => void;
  toggle: () => void;
  start: () => void;
  /** One hit by itself, as it is struck. */
  once: (hit: Hit, stroke?: Stroke) => void;
}

interface Question {
  state: TrackState;
  ducked: boolean;
}

const askBands = ({ state, parts, ducked }: Question & { parts: string[] }) =>
  api.bandMatch(state, parts, ducked);

/** By how many dB a band alone is brought up or down, where that is wished. */
function useLift(player: Player, state: TrackState, wish: Hearing): number {
  const question = useMemo(() => {
    if (!wish.even || wish.band === "all") return null;
    const parts = player.heard(wish);
    return parts.length > 0 ? { state, ducked: wish.ducked, parts } : null;
  }, [player, state, wish]);
  const { data, stale } = useLatest(question, askBands);
  return question === null || data === null || stale || wish.band === "all" ? 0 : data[wish.band];
}

/** The player, fed with the state that is shown; what changes while it plays is heard at once. */
export function useListening(
  shown: TrackState,
  matchDb: (ducked: boolean) => number,
  trouble: (message: string) => void,
): Listening {
  const [player] = useState(() => new Player());
  const [sounds] = useState(() => new Sounds());
  const [playing, setPlaying] = useState(false);
  const [wish, setWish] = useState<Hearing>(QUIETLY);
  const { ducked } = wish;
  const wanted = useRef(false);
  const [loader] = useState(() => {
    const failed = (error: unknown) => {
      if (!wanted.current) return;
      wanted.current = false;
      player.stop();
      setPlaying(false);
      trouble((error as Error).message);
    };
    return new Latest<Question, Pass>(
      (question) => sounds.pass(question.state, question.ducked),
      (pass) => {
        if (wanted.current) player.play(pass).catch(failed);
      },
      failed,
    );
  });
  const hearing: Hearing = { ...wish, matchDb: matchDb(ducked) + useLift(player, shown, wish) };
  useEffect(() => player.set(hearing));
  useEffect(() => {
    if (wanted.current) {
      loader.ask({ state: shown, ducked });
      return;
    }
    const ahead = setTimeout(() => loader.ask({ state: shown, ducked }), STILL_MS);
    return () => clearTimeout(ahead);
  }, [shown, ducked, loader]);
  useEffect(() => {
    // What cannot be played is told when it is to be.
    player.ready().catch(() => undefined);
    return () => {
      wanted.current = false;
      void player.close();
    };
  }, [player]);
  const start = useCallback(() => {
    if (wanted.current) return;
    wanted.current = true;
    setPlaying(true);
    loader.ask({ state: shown, ducked });
  }, [ducked, loader, shown]);
  const toggle = useCallback(() => {
    if (!wanted.current) return start();
    wanted.current = false;
    setPlaying(false);
    player.stop();
  }, [player, start]);
  const once = useCallback(
    (hit: Hit, stroke?: Stroke) => {
      api
        .hit(shown.brief, hit, stroke)
        .then((wav) => player.once(wav))
        .catch((error: Error) => trouble(error.message));
    },
    [player, shown, trouble],
  );
  const hear = useCallback(
    (changes: Partial<Hearing>) => setWish((old) => ({ ...old, ...changes })),
    [],
  );
  return { player, playing, hearing, hear, toggle, start, once };
}
