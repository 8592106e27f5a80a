import { useCallback, useEffect, useState } from "react";

const SHOWN_MS = 6000;

/** A sentence that is shown for a while. */
export function useSay(): [string | null, (text: string) => void] {
  const [message, setMessage] = useState<string | null>(null);
  useEffect(() => {
    if (message === null) return;
    const timer = window.setTimeout(() => setMessage(null), SHOWN_MS);
    return () => window.clearTimeout(timer);
  }, [message]);
  return [message, useCallback((text: string) => setMessage(text), [])];
}
