import { createContext, useContext } from "react";
import type {
  AnswerView,
  BriefFacts,
  ControlSheet,
  Effect,
  Finding,
  KickView,
  TrackState,
} from "../api/client";
import type { Latestly } from "./latest";
import type { TrackDesk } from "./useTrack";

/** A fix that is being heard and not yet taken. */
export interface Trial {
  finding: Finding;
  effect: Effect;
  hearing: boolean;
}

/** What every step works with. `shown` is the state in the pictures: a trial's, or the track's. */
export interface Desk extends TrackDesk {
  shown: TrackState;
  trial: Trial | null;
  tryFix: (finding: Finding) => void;
  hearTrial: (hearing: boolean) => void;
  endTrial: (take: boolean) => void;
  bar: number;
  setBar: (bar: number) => void;
  facts: BriefFacts;
  controls: Record<string, ControlSheet>;
  kick: Latestly<KickView>;
  answer: Latestly<AnswerView>;
  /** Imports a file as the kick or the bass. */
  bring: (file: File, as: "kick" | "bass") => void;
  say: (message: string) => void;
}

export const DeskContext = createContext<Desk | null>(null);

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error("There is no open track here.");
  return desk;
}
