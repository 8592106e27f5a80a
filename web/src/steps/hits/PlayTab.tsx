import { Button } from "react-bootstrap";
import { Controls } from "../../bench/Controls";
import { useShortcuts } from "../../bench/useShortcuts";
import { useDesk } from "../../track/context";
import { editHit, hitOf } from "../../track/parts";
import { swingChanges } from "../../track/swing";
import type { TabProps } from "./HitEditor";

const KEYS = ["q", "w", "e", "r", "t", "y", "u", "i"];

/** How a softer stroke sounds, and the hit played across an octave of the key. */
export function PlayTab({ id }: TabProps) {
  const { shown, change, controls, facts, hit: view, strike } = useDesk();
  const hit = hitOf(shown, id);
  const sheet = controls["velocity"];
  const whole = controls["hit"];
  const hz = view.data?.hit.fundamental_hz ?? null;
  // The notes of the key from the one next to the hit's own up to its octave.
  const inKey = facts.ladder.filter((rung) => rung.in_key);
  const first = hz === null ? -1 : inKey.findIndex((rung) => rung.hz > hz / 2 ** (0.51 / 12));
  const octave = first < 0 ? [] : inKey.slice(first, first + 8);
  const play = (n: number) => {
    const rung = octave[n];
    if (rung && hz !== null) strike({ semitones: 12 * Math.log2(rung.hz / hz) });
  };
  useShortcuts(Object.fromEntries(KEYS.map((key, n) => [key, () => play(n)])));
  if (!sheet || !whole) return null;
  return (
    <div className="play">
      <Controls
        sheet={sheet}
        recipe={hit.velocity}
        onChange={(changes) =>
          change(editHit(id, (old) => ({ ...old, velocity: { ...old.velocity, ...changes } })))
        }
      />
      <p className="lead">
        Z, X and C strike it soft, medium and hard. A softer stroke is quieter, duller, shorter and
        sweeps less, as far as these say.
      </p>
      {octave.length > 0 ? (
        <div className="octave" role="group" aria-label="The hit across an octave of the key">
          {octave.map((rung, n) => (
            <Button key={rung.midi} variant="outline-secondary" onClick={() => play(n)}>
              <kbd>{KEYS[n]?.toUpperCase()}</kbd> {rung.note}
            </Button>
          ))}
        </div>
      ) : (
        <p className="calm">
          {view.data?.hit.reasons["fundamental_hz"] ?? "It has no settled pitch on the ladder"}:
          there is no octave to play.
        </p>
      )}
      <Controls
        sheet={whole}
        without={["aim"]}
        recipe={hit}
        onChange={(changes) =>
          change(editHit(id, (old) => ({ ...old, ...swingChanges(changes) }) as typeof old))
        }
      />
    </div>
  );
}
