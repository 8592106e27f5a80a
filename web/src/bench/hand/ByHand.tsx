import { Button } from "react-bootstrap";
import type { PointerEvent } from "react";
import { ToggleButton } from "../ToggleButton";
import type { Hit, Voice } from "../../api/client";
import { useDesk } from "../../track/context";
import { useHeldKeys } from "../useShortcuts";
import { STROKES } from "./strokes";
import { OWN_PITCH, useHand } from "./useHand";
import "./hand.css";

const LETTERS = ["q", "w", "e", "r", "t", "y", "u", "i"];
const BY_LETTER = 0.8;

/** Lower on a key is harder. */
function velocityAt(event: PointerEvent<HTMLElement>): number {
  const { top, height } = event.currentTarget.getBoundingClientRect();
  return Math.min(1, Math.max(0.25, 0.25 + (0.75 * (event.clientY - top)) / height));
}

/** A hit or a line played by hand: on the screen, by the computer's keys or by a MIDI keyboard. */
export function ByHand({ part }: { part: Hit | Voice }) {
  const { shown, facts, hit: view, listening } = useDesk();
  const hz = part.part === "hit" ? (view.data?.hit.fundamental_hz ?? null) : null;
  const inKey = facts.ladder.filter((rung) => rung.in_key);
  const lowest = part.part === "line" ? facts.club_lowest_hz : (hz ?? Infinity);
  const first = inKey.findIndex((rung) => rung.hz > lowest / 2 ** (0.51 / 12));
  const octave = first < 0 ? [] : inKey.slice(first, first + LETTERS.length);
  const own = hz === null ? null : 69 + 12 * Math.log2(hz / shown.brief.a4_hz);
  const hand = useHand(part, own);
  const { keys, names, recording } = hand;
  const strokes = part.part === "hit" ? STROKES : [];
  const letters = [...LETTERS, ...strokes.map(({ letter }) => letter)];
  const midiOf = (n: number) => octave[n]?.midi ?? (n >= LETTERS.length ? OWN_PITCH : null);
  useHeldKeys(
    letters,
    (n) => {
      const midi = midiOf(n);
      if (midi !== null) keys.press(midi, strokes[n - LETTERS.length]?.velocity ?? BY_LETTER);
    },
    (n) => {
      const midi = midiOf(n);
      if (midi !== null) keys.lift(midi);
    },
  );
  const { click } = listening.hearing;
  return (
    <div className="by-hand" role="group" aria-label={`${part.name} by hand`}>
      {octave.length > 0 ? (
        <div className="octave" role="group" aria-label="An octave of the key">
          {octave.map((rung, n) => (
            <Button
              key={rung.midi}
              variant="outline-secondary"
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                keys.press(rung.midi, velocityAt(event));
              }}
              onPointerUp={() => keys.lift(rung.midi)}
              onPointerCancel={() => keys.lift(rung.midi)}
              onKeyDown={({ key, repeat }) =>
                (key === "Enter" || key === " ") && !repeat && keys.press(rung.midi, BY_LETTER)
              }
              onKeyUp={({ key }) => (key === "Enter" || key === " ") && keys.lift(rung.midi)}
            >
              <kbd>{LETTERS[n]?.toUpperCase()}</kbd> {rung.note}
            </Button>
          ))}
        </div>
      ) : (
        <p className="calm">
          {view.data?.hit.reasons["fundamental_hz"] ?? "It has no settled pitch on the ladder"}:
          there is no octave to play.
        </p>
      )}
      <div className="hand-record">
        <Button
          size="sm"
          variant={recording ? "primary" : "outline-secondary"}
          aria-pressed={recording}
          onClick={hand.record}
        >
          {recording ? "Take what was played" : "Record into the pattern"}
        </Button>
        <ToggleButton
          id="hand-grid"
          type="checkbox"
          size="sm"
          variant="outline-secondary"
          value="1"
          title="Moves what was played to the nearest sixteenth; off, it stays where it was played"
          checked={hand.grid}
          onChange={() => hand.setGrid(!hand.grid)}
        >
          On the grid
        </ToggleButton>
        <ToggleButton
          id="hand-click"
          type="checkbox"
          size="sm"
          variant="outline-secondary"
          value="1"
          title="Counts the beats aloud while the loop plays"
          checked={click}
          onChange={() => listening.hear({ click: !click })}
        >
          Click
        </ToggleButton>
        <Button size="sm" variant="outline-secondary" onClick={hand.find}>
          {names === null ? "Find MIDI keyboards" : "Look again"}
        </Button>
        {names !== null && (
          <span className="calm" role="status">
            {names.length > 0 ? `Listening to ${names.join(", ")}` : "No keyboard is connected"}
          </span>
        )}
      </div>
      <p className="lead">
        {part.part === "hit"
          ? "Z, X and C strike it soft, medium and hard; lower on a key of the screen is harder. Strokes are recorded at its own pitch."
          : "Lower on a key of the screen is harder. What is recorded becomes the line’s pattern."}
      </p>
    </div>
  );
}
