import { useCallback, useEffect, useState } from "react";
import { api, type Finding } from "../api/client";
import type { Trial } from "../track/context";
import type { TrackDesk } from "../track/useTrack";

export interface Trying {
  trial: Trial | null;
  tryFix: (finding: Finding, way: string) => void;
  hearTrial: (hearing: boolean) => void;
  endTrial: (take: boolean) => void;
}

/** A fix that is heard and seen before it is taken. */
export function useTrial({ state, change }: TrackDesk, say: (text: string) => void): Trying {
  const [trial, setTrial] = useState<Trial | null>(null);
  const tryFix = useCallback(
    (finding: Finding, way: string) => {
      const label = finding.fixes[way] ?? "";
      api
        .tryFix(finding.id, way, state)
        .then((effect) => setTrial({ finding, label, effect, hearing: true }))
        .catch((error: Error) => say(error.message));
    },
    [say, state],
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
  return { trial, tryFix, hearTrial, endTrial };
}
