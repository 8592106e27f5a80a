import { Button } from "react-bootstrap";
import { api, type Hit, type HitStep } from "../../api/client";
import { PerCent } from "../../bench/PerCent";
import { millis } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { editHit } from "../../track/parts";
import * as pattern from "../../track/pattern";

interface Props {
  hit: Hit;
  /** The stroke at hand; none where only the hit is. */
  stroke: HitStep | undefined;
  /** How far the places of the grid lie apart, in beats. */
  step: number;
  onEdit: (change: (steps: HitStep[]) => HitStep[], at?: number) => void;
  bars: number;
}

/** The stroke at hand: where it lies to the grid, how hard it is; and strokes taken from another part. */
export function StrokeEditor({ hit, stroke, step, onEdit, bars }: Props) {
  const { shown, facts, change, say } = useDesk();
  const ms = (beats: number) => beats * facts.beat_ms;
  const nudge = (by_ms: number) => {
    if (!stroke) return;
    const by = Math.sign(by_ms) * Math.max(1 / 480, Math.abs(by_ms) / facts.beat_ms);
    const next = pattern.moved(hit.steps, stroke.at, by, bars);
    const index = hit.steps.indexOf(stroke);
    onEdit((old) => pattern.moved(old, stroke.at, by, bars), next[index]?.at);
  };
  const off = stroke ? ms(stroke.at - pattern.snapped(stroke.at, step)) : 0;
  const others = shown.parts.filter(
    ({ id, part }) => id !== hit.id && (part === "stem" || part === "line" || part === "hit"),
  );
  const take = (heard: string) =>
    api
      .strokesOf(shown, heard, hit.id)
      .then(({ bars: over, steps, said }) => {
        change(editHit(hit.id, (old) => ({ ...old, bars: over, steps })));
        say([`${steps.length} strokes are the ${hit.name}’s now.`, ...said].join(" "));
      })
      .catch((error: Error) => say(error.message));
  return (
    <div className="note-editor" role="group" aria-label={`Strokes of ${hit.name}`}>
      {stroke && (
        <>
          <span className="layer-choice">
            bar {Math.floor(stroke.at / 4) + 1}, beat {(1 + (stroke.at % 4)).toFixed(3)}
            {Math.abs(off) >= 0.5 && (
              <b>
                {" "}
                {millis(Math.abs(off), 1)} {off > 0 ? "late" : "early"}
              </b>
            )}
          </span>
          <span className="layer-choice">
            {[-5, -1, 1, 5].map((by) => (
              <Button
                key={by}
                size="sm"
                variant="outline-secondary"
                aria-label={`${Math.abs(by)} ms ${by > 0 ? "later" : "earlier"}`}
                onClick={() => nudge(by)}
              >
                {by > 0 ? `+${by}` : `−${-by}`}
              </Button>
            ))}{" "}
            ms
          </span>
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={Math.abs(off) < 0.5}
            onClick={() => {
              const to = pattern.snapped(stroke.at, step);
              onEdit(
                (old) =>
                  pattern.inOrder(
                    old
                      .filter((one) => one.at === stroke.at || Math.abs(one.at - to) > 1 / 480)
                      .map((one) => (one.at === stroke.at ? { ...one, at: to } : one)),
                  ),
                to,
              );
            }}
          >
            snap
          </Button>
          <PerCent
            label="velocity"
            value={stroke.velocity}
            onChange={(velocity) =>
              onEdit((old) => pattern.changedAt(old, stroke.at, (one) => ({ ...one, velocity })))
            }
          />
        </>
      )}
      <label className="layer-choice">
        strokes of {hit.name} as
        <select
          className="form-select form-select-sm"
          aria-label={`Take the strokes of ${hit.name} from`}
          value=""
          onChange={(event) => event.target.value && void take(event.target.value)}
        >
          <option value="">another part’s…</option>
          {others.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}
