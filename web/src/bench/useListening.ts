import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Hit, type Stroke, type TrackState } from "../api/client";
import { Player, QUIETLY, type Hearing, type Pass } from "../audio/player";
import { Latest } from "../track/latest";

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

/** The player, fed with the state that is shown; what changes while it plays is heard at once. */
export function useListening(
  shown: TrackState,
  matchDb: (ducked: boolean) => number,
  trouble: (message: string) => void,
): Listening {
  const [player] = useState(() => new Player());
  const [playing, setPlaying] = useState(false);
  const [wish, setWish] = useState<Hearing>(QUIETLY);
  const wanted = useRef(false);
  const [loader] = useState(
    () =>
      new Latest<TrackState, Pass>(
        (state) => api.loop(state),
        (loop) => {
          if (wanted.current) player.play(loop);
        },
        (error) => {
          wanted.current = false;
          player.stop();
          setPlaying(false);
          trouble((error as Error).message);
        },
      ),
  );
  const hearing: Hearing = { ...wish, matchDb: matchDb(wish.ducked) };
  useEffect(() => player.set(hearing));
  useEffect(() => {
    if (wanted.current) loader.ask(shown);
  }, [shown, loader]);
  useEffect(
    () => () => {
      wanted.current = false;
      player.stop();
    },
    [player],
  );
  const start = useCallback(() => {
    if (wanted.current) return;
    wanted.current = true;
    setPlaying(true);
    loader.ask(shown);
  }, [loader, shown]);
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
