import { useCallback, useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { Finding, TriedFix } from "../api/client";
import { useDesk } from "../track/context";

/** So long nothing has changed before fixes are tried: a hand on a slider is not raced. */
const CALM_MS = 800;

interface Trials {
  /** What every finding's fixes were measured to do, by the finding's id; those not tried yet are missing. */
  tried: Record<string, TriedFix[]>;
  /** Tries the fixes of one finding at once. */
  tryNow: (finding: Finding) => Promise<void>;
  /** Whether a finding's fixes are tried without being asked: those of the step at hand are. */
  byItself: (finding: Finding) => boolean;
}

/** Tries the fixes of findings, those of the step at hand by itself, the others when asked. */
export function useTriedFixes(findings: Finding[] | null): Trials {
  const { fixesOf } = useDesk();
  const [tried, setTried] = useState<Record<string, TriedFix[]>>({});
  const step = useLocation().pathname.split("/").at(-1);
  const byItself = useCallback((finding: Finding) => finding.step === step, [step]);
  useEffect(() => setTried({}), [fixesOf]);
  useEffect(() => {
    if (!findings) return;
    const stop = new AbortController();
    const run = async () => {
      const mendable = findings.filter((one) => byItself(one) && Object.keys(one.fixes).length > 0);
      for (const one of mendable) {
        const found = await fixesOf(one, stop.signal);
        setTried((old) => ({ ...old, [one.id]: found }));
      }
    };
    const timer = setTimeout(() => {
      // A trial that is called off, or a server that is away, leaves the findings as they are.
      run().catch(() => undefined);
    }, CALM_MS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [fixesOf, findings, byItself]);
  const tryNow = async (finding: Finding) => {
    try {
      const found = await fixesOf(finding, new AbortController().signal);
      setTried((old) => ({ ...old, [finding.id]: found }));
    } catch {
      // A server that is away is told elsewhere; the finding can be asked again.
    }
  };
  return { tried, tryNow, byItself };
}
