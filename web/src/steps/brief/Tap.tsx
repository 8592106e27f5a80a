import { useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { api } from "../../api/client";
import { useShortcuts } from "../../bench/useShortcuts";
import { useDesk } from "../../track/context";

/** After so long without a tap the next one begins anew. */
const PAUSE_MS = 2000;
const ENOUGH = 4;
const MOST = 32;

/** The tempo by tapping on the beat. */
export function Tap({ onTempo }: { onTempo: (bpm: number) => void }) {
  const { say } = useDesk();
  const taps = useRef<number[]>([]);
  const [count, setCount] = useState(0);
  // When the finger went down, not when a busy page got round to it.
  const tap = ({ timeStamp: now }: { timeStamp: number }) => {
    const last = taps.current.at(-1);
    const going = last !== undefined && now - last < PAUSE_MS ? taps.current : [];
    taps.current = [...going, now].slice(-MOST);
    setCount(taps.current.length);
    if (taps.current.length >= ENOUGH)
      api.tapped(taps.current).then(onTempo, (error: Error) => say(error.message));
  };
  useShortcuts({ t: tap });
  return (
    <Button
      size="sm"
      variant="outline-secondary"
      title="On the beat, four times at least (T)"
      onClick={tap}
    >
      Tap{count > 0 && count < ENOUGH ? ` ${count}` : ""}
    </Button>
  );
}
