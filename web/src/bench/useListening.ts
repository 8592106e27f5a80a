import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, type Hit, type Stroke, type TrackState } from "../api/client";
import type { ReferenceView, Through } from "../api/judging";
import { Player, QUIETLY, type Hearing, type Pass } from "../audio/player";
import { Sounds } from "../audio/sounds";
import { forTheEar, type Soon } from "../track/first";
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
  /** What made it as loud in a place as it is without it. */
  lift: Pass["lift"] | null;
}

interface Question {
  /** A record in place of the track. */
  record: ReferenceView | null;
  state: TrackState;
  ducked: boolean;
  /** In a place, what is heard together is rendered there. */
  there: (Through & Pick<Hearing, "part" | "solo">) | null;
}

const same = (one: Question, other: Question) =>
  one.record === other.record &&
  one.state === other.state &&
  one.ducked === other.ducked &&
  one.there === other.there;

const askBands = (asked: { state: TrackState; ducked: boolean; parts: string[] }) =>
  api.bandMatch(asked.state, asked.parts, asked.ducked);

/** By how many dB a band alone is brought up or down, where that is wished. */
function useLift(player: Player, state: TrackState, wish: Hearing, there: boolean): number {
  const question = useMemo(() => {
    if (!wish.even || wish.band === "all" || there) return null;
    const parts = player.heard(wish);
    return parts.length > 0 ? { state, ducked: wish.ducked, parts } : null;
  }, [player, state, there, wish]);
  const { data, stale } = useLatest(question, askBands);
  return question === null || data === null || stale || wish.band === "all" ? 0 : data[wish.band];
}

/** The player, fed with the state that is shown; what changes while it plays is heard at once. */
export function useListening(
  shown: TrackState,
  matchDb: (ducked: boolean) => number,
  trouble: (message: string) => void,
  through: Through | null,
  record: ReferenceView | null,
  soon: Soon,
): Listening {
  const [player] = useState(() => new Player());
  const [sounds] = useState(() => new Sounds());
  const [playing, setPlaying] = useState(false);
  const [wish, setWish] = useState<Hearing>(QUIETLY);
  const [lift, setLift] = useState<Pass["lift"] | null>(null);
  const { ducked, part, solo } = wish;
  const there = useMemo(() => through && { ...through, part, solo }, [through, part, solo]);
  const wanted = useRef(false);
  const ready = useRef<{ question: Question; pass: Pass } | null>(null);
  const [failed] = useState(() => (error: unknown) => {
    if (!wanted.current) return;
    wanted.current = false;
    player.stop();
    setPlaying(false);
    trouble((error as Error).message);
  });
  const [loader] = useState(
    () =>
      new Latest<Question, Pass>(
        ({ record, state, ducked, there }) =>
          forTheEar(
            record
              ? sounds.record(record)
              : there
                ? sounds.passIn(there, state, ducked, there)
                : sounds.pass(state, ducked),
          ),
        (pass, question) => {
          ready.current = { question, pass };
          setLift(pass.lift ?? null);
          if (wanted.current) player.play(pass).catch(failed);
        },
        failed,
      ),
  );
  const asked = useRef<Question | null>(null);
  const ask = useCallback(
    (question: Question) => {
      asked.current = question;
      // What comes later than something else was asked for is not what is there.
      ready.current = null;
      loader.ask(question);
    },
    [loader],
  );
  // Sound is asked for before the page draws itself anew.
  useEffect(() => {
    soon.current = (now, was) => {
      if (!wanted.current || !asked.current || asked.current.record || asked.current.state !== was)
        return;
      ask({ ...asked.current, state: now });
    };
    return () => {
      soon.current = null;
    };
  }, [ask, soon]);
  const evened = useLift(player, shown, wish, through !== null || record !== null);
  const hearing: Hearing = { ...wish, matchDb: matchDb(ducked) + evened };
  useEffect(() => player.set(hearing));
  useEffect(() => {
    const question = { record, state: shown, ducked, there };
    if (wanted.current) {
      if (!asked.current || !same(asked.current, question)) ask(question);
      return;
    }
    const ahead = setTimeout(() => ask(question), STILL_MS);
    return () => clearTimeout(ahead);
  }, [ask, record, shown, ducked, there]);
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
    const question = { record, state: shown, ducked, there };
    const { current } = ready;
    // What is there already is played at once; what is not, when it has come.
    if (current && same(current.question, question)) player.play(current.pass).catch(failed);
    else ask(question);
  }, [ask, ducked, failed, player, record, shown, there]);
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
  return { player, playing, hearing, hear, toggle, start, once, lift };
}
