import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import type { Fit, Sound } from "../../api/client";
import { cents, millis } from "../../bench/scale";
import { fileOf } from "./useSounds";

const ROW_PX = 44;
const STARS = [1, 2, 3, 4, 5];

interface Props {
  sounds: Sound[];
  fits: ReadonlyMap<string, Fit>;
  at: string | null;
  kept: string[];
  onWalk: (sound: Sound) => void;
  onTake: () => void;
  onKeep: () => void;
  onStars: (sound: Sound, stars: number) => void;
}

/** A sound's envelope, from its picture in dB. */
function Silhouette({ levels }: { levels: number[] }) {
  const top = levels.map((db, n) => `${n},${(-db / 48) * 10}`).join(" ");
  const bottom = levels.map((db, n) => `${n},${20 - (-db / 48) * 10}`).reverse();
  return (
    <svg viewBox={`0 0 ${levels.length} 20`} preserveAspectRatio="none" aria-hidden>
      <polygon points={`${top} ${bottom.join(" ")}`} />
    </svg>
  );
}

/** The list: arrow keys walk it while the loop plays, Enter takes. Only what is seen of it is drawn. */
export function Sounds({ sounds, fits, at, kept, onWalk, onTake, onKeep, onStars }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: sounds.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 6,
  });
  const here = sounds.findIndex(({ hash }) => hash === at);
  useEffect(() => {
    if (here >= 0) rows.scrollToIndex(here);
  }, [here, rows]);
  const walk = (by: number) => {
    const next = sounds[Math.min(sounds.length - 1, Math.max(0, here + by))];
    if (next) onWalk(next);
  };
  const keys: Record<string, () => void> = {
    ArrowDown: () => walk(1),
    ArrowUp: () => walk(here < 0 ? 1 : -1),
    PageDown: () => walk(8),
    PageUp: () => walk(-8),
    Enter: onTake,
    v: onKeep,
  };
  return (
    <>
      <div className="stock-row stock-head" aria-hidden>
        <span />
        <span>sound</span>
        <span>kind</span>
        <span>note</span>
        <span>length</span>
        <span>stars</span>
        <span>{fits.size > 0 ? "fit" : ""}</span>
      </div>
      <div
        ref={box}
        className="stock-list"
        role="listbox"
        aria-label="Sounds"
        tabIndex={0}
        aria-activedescendant={here >= 0 ? `sound-${sounds[here]?.hash}` : undefined}
        onKeyDown={(event) => {
          const action = keys[event.key];
          if (!action || event.target !== event.currentTarget) return;
          event.preventDefault();
          action();
        }}
      >
        <div style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const sound = sounds[index] as Sound;
            const fit = fits.get(sound.hash);
            const strongest = [...(fit?.reasons ?? [])].sort((a, b) => b.cost - a.cost).slice(0, 2);
            return (
              // The list's own keys walk and take; a click walks to a row.
              // eslint-disable-next-line jsx-a11y/click-events-have-key-events
              <div
                key={sound.hash}
                id={`sound-${sound.hash}`}
                role="option"
                tabIndex={-1}
                aria-selected={sound.hash === at}
                className={sound.hash === at ? "stock-row at-hand" : "stock-row"}
                style={{ height: ROW_PX, transform: `translateY(${start}px)` }}
                onClick={() => onWalk(sound)}
              >
                <Silhouette levels={sound.picture_db} />
                <span className="stock-name" title={sound.places.join("\n")}>
                  <b>{fileOf(sound)}</b>
                  <small>
                    {kept.includes(sound.hash) && "kept · "}
                    {strongest.length > 0
                      ? strongest.map(({ said }) => said).join(" · ")
                      : sound.reasons.join(" · ")}
                    {sound.places.length > 1 && ` · in ${sound.places.length} places`}
                  </small>
                </span>
                <span title={`${Math.round(100 * sound.confidence)} per cent sure`}>
                  {sound.kind}
                </span>
                <span>
                  {sound.note ?? "–"}
                  {sound.note && sound.cents !== null && <small> {cents(sound.cents)}</small>}
                </span>
                <span>{millis(sound.length_ms)}</span>
                <span className="stock-stars">
                  {STARS.map((n) => (
                    <button
                      key={n}
                      type="button"
                      tabIndex={-1}
                      aria-label={`${n} stars for ${fileOf(sound)}`}
                      onClick={(event) => {
                        event.stopPropagation();
                        onStars(sound, n === sound.stars ? 0 : n);
                      }}
                    >
                      {n <= sound.stars ? "★" : "☆"}
                    </button>
                  ))}
                </span>
                <span className={fit && !fit.measured ? "stock-fit guessed" : "stock-fit"}>
                  {fit ? fit.fit.toFixed(0) : ""}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}
