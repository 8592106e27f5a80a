import { useCallback } from "react";
import { useSearchParams } from "react-router";

export interface Address {
  asked: URLSearchParams;
  /** Write a word into the address, or take it out with null. */
  put: (name: string, value: string | null) => void;
}

/** What of the work at hand is in the address: it survives a reload, and goes along in a link. */
export function useAddress(): Address {
  const [asked, ask] = useSearchParams();
  const put = useCallback(
    (name: string, value: string | null) =>
      ask(
        (old) => {
          const next = new URLSearchParams(old);
          if (value === null) next.delete(name);
          else next.set(name, value);
          return next;
        },
        { replace: true },
      ),
    [ask],
  );
  return { asked, put };
}

/** The tab at hand, the first one where the address names none of them. */
export function useTab<T extends string>(tabs: readonly T[]): [T, (tab: T) => void] {
  const { asked, put } = useAddress();
  const tab = tabs.find((one) => one === asked.get("tab")) ?? (tabs[0] as T);
  return [tab, useCallback((chosen: T) => put("tab", chosen), [put])];
}
