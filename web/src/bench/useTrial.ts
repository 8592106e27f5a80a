import { useCallback, useEffect, useState } from "react";
import { api, type Finding, type TriedFix } from "../api/client";
import { judging } from "../api/judging";
import type { Trial } from "../track/context";
import type { InRoom } from "./useRoom";
import type { TrackDesk } from "../track/useTrack";

export interface Trying {
  trial: Trial | null;
  tryFix: (finding: Finding, way: string) => void;
  /** The fixes of a finding that were tried and may be offered. */
  fixesOf: (finding: Finding, signal: AbortSignal) => Promise<TriedFix[]>;
  /** Something else that was tried, heard like a fix. */
  startTrial: (trial: Trial) => void;
  hearTrial: (hearing: boolean) => void;
  endTrial: (take: boolean) => void;
}

/** Whether a finding is of the track in a place. */
const inPlace = (finding: Finding) => finding.step === "room";

/** A fix that is heard and seen before it is taken. */
export function useTrial(
  { state, change }: TrackDesk,
  { room, lufs }: Pick<InRoom, "room" | "lufs">,
  say: (text: string) => void,
): Trying {
  const [trial, setTrial] = useState<Trial | null>(null);
  const tryFix = useCallback(
    (finding: Finding, way: string) => {
      const label = finding.fixes[way] ?? "";
      const asked = inPlace(finding)
        ? judging.roomFix(finding.id, way, { state, room, lufs })
        : api.tryFix(finding.id, way, state);
      asked
        .then((effect) => setTrial({ finding, label, effect, hearing: true }))
        .catch((error: Error) => say(error.message));
    },
    [lufs, room, say, state],
  );
  const fixesOf = useCallback(
    (finding: Finding, signal: AbortSignal) =>
      inPlace(finding)
        ? judging.roomFixes(finding.id, { state, room, lufs }, signal)
        : api.triedFixes(finding.id, state, signal),
    [lufs, room, state],
  );
  const hearTrial = useCallback(
    (heard: boolean) => setTrial((old) => (old ? { ...old, hearing: heard } : old)),
    [],
  );
  const endTrial = useCallback(
    (take: boolean) => {
      if (take && trial) {
        change(() => trial.effect.state);
        say("Taken. Undo takes it back.");
      }
      setTrial(null);
    },
    [change, say, trial],
  );
  // What is changed by hand ends a trial: the fix was made for another state.
  useEffect(() => setTrial(null), [state]);
  return { trial, tryFix, fixesOf, startTrial: setTrial, hearTrial, endTrial };
}
