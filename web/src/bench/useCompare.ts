import { useCallback, useEffect, useMemo, useState } from "react";
import type { TrackState } from "../api/client";
import { judging, type ReferenceView } from "../api/judging";
import { useLatest } from "../track/latest";

/** What the track as it stands is heard against. */
export interface Against {
  label: string;
  /** Another state, or a record’s passage. */
  state?: TrackState;
  record?: ReferenceView;
}

/** A blind test as it goes: what X is, which of the three is heard, and what was answered. */
export interface BlindTest {
  x: "a" | "b";
  heard: "a" | "b" | "x";
  rights: boolean[];
}

export interface Compare {
  against: Against | null;
  /** What stands as A in place of the track as it is now. */
  base: Against | null;
  setBase: (base: Against | null) => void;
  /** Which of the two is heard; A is the track as it stands. */
  hearing: "a" | "b";
  /** What makes both equally loud, in dB; null until that is known. */
  gains: { a_db: number; b_db: number } | null;
  begin: (against: Against, wish?: { blind: boolean }) => void;
  hear: (which: "a" | "b") => void;
  end: () => void;
  blind: BlindTest | null;
  startBlind: () => void;
  hearBlind: (which: BlindTest["heard"]) => void;
  answer: (x: "a" | "b") => void;
  endBlind: () => void;
}

const ask = ({ a, against }: { a: TrackState; against: Against }) =>
  against.record ? judging.matchRecord(a, against.record.id) : judging.match(a, against.state ?? a);
/** Drawn so that nobody can know it, the page least of all. */
const drawn = (): "a" | "b" =>
  (crypto.getRandomValues(new Uint8Array(1))[0] ?? 0) % 2 === 0 ? "a" : "b";

/** Two states of a track against each other: same loudness, same place in the bar, and blind on request. */
export function useCompare(state: TrackState): Compare {
  const [against, setAgainst] = useState<Against | null>(null);
  const [base, setBase] = useState<Against | null>(null);
  const [hearing, setHearing] = useState<"a" | "b">("a");
  const [blind, setBlind] = useState<BlindTest | null>(null);
  // What is changed by hand is heard at once; a blind test was about what stood before.
  useEffect(() => {
    setHearing("a");
    setBlind(null);
  }, [state]);
  const gains = useLatest(
    useMemo(() => against && { a: base?.state ?? state, against }, [against, base, state]),
    ask,
  );
  const startBlind = useCallback(() => {
    setHearing("a");
    setBlind({ x: drawn(), heard: "x", rights: [] });
  }, []);
  const begin = useCallback(
    (next: Against, wish?: { blind: boolean }) => {
      setAgainst(next);
      setBlind(null);
      setHearing(wish?.blind ? "a" : "b");
      if (wish?.blind) startBlind();
    },
    [startBlind],
  );
  const end = useCallback(() => {
    setAgainst(null);
    setBase(null);
    setBlind(null);
    setHearing("a");
  }, []);
  const answer = useCallback(
    (x: "a" | "b") =>
      setBlind((old) => old && { x: drawn(), heard: "x", rights: [...old.rights, x === old.x] }),
    [],
  );
  const hearBlind = useCallback(
    (heard: BlindTest["heard"]) => setBlind((old) => old && { ...old, heard }),
    [],
  );
  return {
    against,
    base,
    setBase,
    hearing,
    gains: against && !gains.stale ? gains.data : null,
    begin,
    hear: setHearing,
    end,
    blind,
    startBlind,
    hearBlind,
    answer,
    endBlind: useCallback(() => setBlind(null), []),
  };
}

/** Which of the two is played now; null where nothing is compared. */
export function sideHeard({ against, hearing, blind }: Compare): "a" | "b" | null {
  if (!against) return null;
  if (!blind) return hearing;
  return blind.heard === "x" ? blind.x : blind.heard;
}
