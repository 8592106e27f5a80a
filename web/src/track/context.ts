import { createContext, useContext } from "react";
import type {
  AnswerView,
  BriefFacts,
  ControlSheet,
  Effect,
  Finding,
  Hit,
  HitView,
  Stroke,
  TrackState,
  TriedFix,
} from "../api/client";
import type { Outlet, RoomView } from "../api/judging";
import type { Compare } from "../bench/useCompare";
import type { InRoom } from "../bench/useRoom";
import type { Listening } from "../bench/useListening";
import type { Brought } from "./brought";
import type { Latestly } from "./latest";
import type { TrackDesk } from "./useTrack";

/** A fix that is being heard and not yet taken. */
export interface Trial {
  finding: Finding;
  /** The words of the fix that is tried. */
  label: string;
  effect: Effect;
  hearing: boolean;
}

/** A sound of the stock that is heard in the place of a part's, and not yet taken. */
export interface Audition {
  hash: string;
  label: string;
  state: TrackState;
}

/** What every step works with. `shown` is the state in the pictures: a trial's, or the track's. */
export interface Desk extends TrackDesk {
  shown: TrackState;
  trial: Trial | null;
  tryFix: (finding: Finding, way: string) => void;
  fixesOf: (finding: Finding, signal: AbortSignal) => Promise<TriedFix[]>;
  startTrial: (trial: Trial) => void;
  hearTrial: (hearing: boolean) => void;
  endTrial: (take: boolean) => void;
  audition: Audition | null;
  setAudition: (audition: Audition | null) => void;
  bar: number;
  setBar: (bar: number) => void;
  /** The moment of the bar that the ladder shows, in ms; null for all of it. */
  moment: number | null;
  setMoment: (ms: number | null) => void;
  facts: BriefFacts;
  controls: Record<string, ControlSheet>;
  kick: Latestly<HitView>;
  /** The part at hand in the strip. */
  partId: string;
  choosePart: (id: string) => void;
  /** The hit at hand, or the one that was last. */
  hitId: string;
  hit: Latestly<HitView>;
  /** Which of its layers. */
  layerAt: number;
  chooseLayer: (layer: number) => void;
  /** The line at hand, or the one that was last. */
  lineId: string;
  /** The player and what it plays. */
  listening: Listening;
  /** Before the first sound of all: what low frequencies can do. */
  warn: () => void;
  /** Plays a hit by itself, as it is struck. */
  strike: (stroke?: Stroke, hit?: Hit) => void;
  answer: Latestly<AnswerView>;
  /** The folder beside the arranging project; undefined until it is known. */
  outlet: Outlet | undefined;
  /** The track as it stands against another state. */
  compare: Compare;
  /** The place that a low end is judged in, and what becomes of it there. */
  inRoom: InRoom;
  there: Latestly<RoomView>;
  /** Imports a file as the hit at hand, as the bass, as a recording to be cut, or as a stem. */
  bring: (file: File, as: Brought) => void;
  /** What a file becomes that is dropped now; null for what the step is for. */
  setDropAs: (as: Brought | null) => void;
  say: (message: string) => void;
}

export const DeskContext = createContext<Desk | null>(null);

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error("There is no open track here.");
  return desk;
}
