import { useEffect, useState } from "react";
import type { Reading } from "../audio/messages";
import type { Player } from "../audio/player";
import { decibels } from "./scale";

/** Less than this of the limiter is nothing to speak of. */
const SAID_DB = 0.05;
/** How long its work stays on the screen. */
const STAYS_MS = 1000;

/** What leaves for the loudspeakers: loudness of the last 400 ms, the true peak, and what the limiter takes. */
export function OutputMeter({ player, playing }: { player: Player; playing: boolean }) {
  const [reading, setReading] = useState<Reading | null>(null);
  const [limited, setLimited] = useState<{ db: number; at: number } | null>(null);
  useEffect(() => {
    player.onReading = (now) => {
      setReading(now);
      setLimited((old) => {
        const over = old && performance.now() - old.at > STAYS_MS ? null : old;
        return now.taken > Math.max(SAID_DB, over?.db ?? 0)
          ? { db: now.taken, at: performance.now() }
          : over;
      });
    };
    return () => {
      player.onReading = null;
    };
  }, [player]);
  const level = (value: number, unit: string) =>
    playing && value > -70 ? `${decibels(value).replace(" dB", "")} ${unit}` : `– ${unit}`;
  return (
    <span
      className={limited ? "output-meter limited" : "output-meter"}
      title="Loudness of the last 400 ms and true peak, as they leave; the limiter acts above −1 dBFS"
    >
      <span>{level(reading?.lufs ?? -99, "LUFS")}</span>
      <span>
        {limited ? `limited ${decibels(limited.db)}` : level(reading?.dbtp ?? -99, "dBTP")}
      </span>
    </span>
  );
}
