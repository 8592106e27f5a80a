import { useMemo } from "react";
import {
  api,
  type AnswerView,
  type Brief,
  type BriefFacts,
  type Hit,
  type HitView,
  type TrackState,
} from "../api/client";
import { useLatest, type Latestly } from "../track/latest";
import { kickOf } from "../track/parts";

const askFacts = (brief: Brief) => api.facts(brief);
const askHit = ({ brief, hit }: { brief: Brief; hit: Hit }) => api.viewHit(brief, hit);
const askAnswer = ({ state, bar }: { state: TrackState; bar: number }) => api.answer(state, bar);

export interface Views {
  facts: BriefFacts;
  kick: Latestly<HitView>;
  hit: Latestly<HitView>;
  answer: Latestly<AnswerView>;
}

/** What the pictures show of a state: each asked for again when what it follows from has changed. */
export function useViews(shown: TrackState, hit: Hit, bar: number, first: BriefFacts): Views {
  const { brief } = shown;
  const shownKick = kickOf(shown);
  const facts = useLatest(brief, askFacts).data ?? first;
  const kick = useLatest(
    useMemo(() => ({ hit: shownKick, brief }), [shownKick, brief]),
    askHit,
  );
  const other = useLatest(
    useMemo(() => (hit === shownKick ? null : { hit, brief }), [hit, shownKick, brief]),
    askHit,
  );
  const answer = useLatest(
    useMemo(() => ({ state: shown, bar }), [shown, bar]),
    askAnswer,
  );
  return { facts, kick, hit: hit === shownKick ? kick : other, answer };
}
