import { useCallback, useEffect, useState } from "react";
import type { Hit, TrackState } from "../api/client";
import { ALONE, type StepId } from "../steps/steps";
import { hitOf, kickOf, type Part, partOf, voiceOf } from "../track/parts";
import { useAddress } from "./useAddress";

export interface AtHand {
  /** The part chosen in the strip. */
  partId: string;
  choosePart: (id: string) => void;
  /** The hit at hand, or the one that was last; the kick in steps about the whole track. */
  hit: Hit;
  /** The line at hand, or the one that was last. */
  lineId: string;
  /** The line that a file dropped now becomes. */
  lineHere: string;
  /** Whether a line is at hand, and whether a hit is, by itself. */
  isLine: boolean;
  isHit: boolean;
  layerAt: number;
  chooseLayer: (layer: number) => void;
  /** What of the address goes along to another step. */
  searchTo: (step: StepId) => string;
}

const fits = (part: Part, step: StepId) =>
  step === "hits" ? part.part !== "line" : step === "line" ? part.part !== "hit" : true;

/** The part at hand in a step: as the address has it, else the last one that the step is about. */
export function useAtHand(shown: TrackState, step: StepId): AtHand {
  const { asked, put } = useAddress();
  const [lastHit, setLastHit] = useState("");
  const [lastLine, setLastLine] = useState("");
  const [layerWish, chooseLayer] = useState(0);
  const wished = partOf(shown, asked.get("part") ?? "");
  // Other steps are about kick and bass, whatever part is at hand.
  const single = ALONE.includes(step) || step === "line";
  const isHit = single && (wished ? wished.part === "hit" : step !== "line");
  const hit =
    isHit || ALONE.includes(step)
      ? hitOf(shown, wished?.part === "hit" ? wished.id : lastHit)
      : kickOf(shown);
  const lineId = voiceOf(shown, wished?.part === "line" ? wished.id : lastLine).id;
  const isLine = wished ? wished.part === "line" : step === "line";
  useEffect(() => {
    if (wished?.part === "hit") setLastHit(wished.id);
    if (wished?.part === "line") setLastLine(wished.id);
  }, [wished?.id, wished?.part]);
  const choosePart = useCallback((id: string) => put("part", id), [put]);
  const searchTo = (to: StepId) => {
    const along = new URLSearchParams(asked);
    if (wished && !fits(wished, to)) along.delete("part");
    const text = along.toString();
    return text && `?${text}`;
  };
  return {
    partId: wished?.id ?? (step === "line" ? lineId : hit.id),
    choosePart,
    hit,
    lineId,
    lineHere: isLine ? lineId : voiceOf(shown, "").id,
    isLine,
    isHit,
    layerAt: Math.min(layerWish, hit.layers.length - 1),
    chooseLayer,
    searchTo,
  };
}
