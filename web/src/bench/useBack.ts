import { useEffect, useRef } from "react";
import type { Saving } from "../track/useTrack";

/** Says so when a server that was away is back and has everything. */
export function useBack(saving: Saving, say: (message: string) => void): void {
  const was = useRef(false);
  useEffect(() => {
    if (saving === "away") was.current = true;
    if (saving !== "saved" || !was.current) return;
    was.current = false;
    say("The server is back, and everything is saved.");
  }, [saving, say]);
}
