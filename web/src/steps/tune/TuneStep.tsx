import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Pitched, type Tuned } from "../../api/client";
import { cents, maybe, millis } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { editHit, hitsOf, rootsOf } from "../../track/edits";
import { useLatest } from "../../track/latest";
import { Candidates } from "./Candidates";

/** What every hit of the track sounds, and the smallest move that puts it in key. */
export function TuneStep() {
  const { shown, state, facts, change, controls, hitIndex, chooseHit, strike, say } = useDesk();
  const table = useLatest(shown, api.tuneTable);
  const [preview, setPreview] = useState<{ tuned: Tuned; of: typeof state } | null>(null);
  const rows = table.data?.hits ?? [];
  const off = rows.filter((row) => !row.in_tune && row.moves[0]?.wanted);
  const aims = controls["hit"]?.choices.find((choice) => choice.name === "aim");
  const fail = (error: Error) => say(error.message);
  const tune = (index: number, note: string) =>
    api
      .tune(state, index, note)
      .then((tuned) => {
        change(() => tuned.state);
        say(`Tuned to ${note}.`);
      })
      .catch(fail);
  const planned = preview?.of === state ? preview.tuned : null;
  return (
    <div className="step-body tune">
      <div className="tune-head">
        <p className="lead">
          {facts.key}, chord roots {rootsOf(shown.brief).join(" | ")}.{" "}
          {rows.length > 0 &&
            (off.length === 0
              ? "Every hit is where it aims."
              : off.length === 1
                ? "One hit is out of tune."
                : `${off.length} hits are out of tune.`)}
        </p>
        <Button
          size="sm"
          disabled={off.length === 0 || table.stale}
          onClick={() =>
            void api
              .tuneAll(state)
              .then((tuned) => setPreview({ tuned, of: state }))
              .catch(fail)
          }
        >
          Tune all…
        </Button>
      </div>
      {planned && (
        <div className="tune-plan" role="group" aria-label="What tuning all would change">
          <ul>
            {planned.changes.map((one) => (
              <li key={one.index}>
                <b>{one.name}</b> {one.from_hz.toFixed(2)} Hz → <b>{one.note}</b>,{" "}
                {cents(one.shift_cents)}, {millis(one.length_before_ms)}
                {Math.abs(one.length_after_ms - one.length_before_ms) > 1 &&
                  ` → ${millis(one.length_after_ms)}`}
                , {Math.abs(one.left_cents).toFixed(2)} ¢ left
                <Button
                  size="sm"
                  variant="outline-secondary"
                  aria-label={`Hear the ${one.name} as it is`}
                  onClick={() => strike({}, hitsOf(state)[one.index])}
                >
                  before
                </Button>
                <Button
                  size="sm"
                  variant="outline-secondary"
                  aria-label={`Hear the ${one.name} tuned`}
                  onClick={() => strike({}, hitsOf(planned.state)[one.index])}
                >
                  after
                </Button>
              </li>
            ))}
          </ul>
          <Button
            size="sm"
            onClick={() => {
              change(() => planned.state);
              setPreview(null);
              say("Tuned. Undo brings back what was.");
            }}
          >
            Take all
          </Button>{" "}
          <Button size="sm" variant="outline-secondary" onClick={() => setPreview(null)}>
            Leave it
          </Button>
        </div>
      )}
      <div className={`tune-table${table.stale ? " dim" : ""}`} role="list" aria-label="Hits">
        {rows.map((row) => (
          <div
            key={row.index}
            role="listitem"
            className={row.index === hitIndex ? "tune-row at-hand" : "tune-row"}
          >
            <Button
              size="sm"
              variant={row.index === hitIndex ? "secondary" : "outline-secondary"}
              aria-pressed={row.index === hitIndex}
              onClick={() => chooseHit(row.index)}
            >
              {row.name}
            </Button>
            <Sounds row={row} />
            <select
              className="form-select form-select-sm"
              aria-label={`Aim of the ${row.name}`}
              title={aims?.help}
              value={hitsOf(shown)[row.index]?.aim}
              onChange={(event) =>
                change(
                  editHit(row.index, (old) => ({
                    ...old,
                    aim: event.target.value as typeof old.aim,
                  })),
                )
              }
            >
              {aims?.options.map((option) => (
                <option key={option} value={option}>
                  {option === "as usual" && row.aim === "free" ? "as usual: free" : option}
                </option>
              ))}
            </select>
            <Nearest row={row} stale={table.stale} onTune={(note) => void tune(row.index, note)} />
          </div>
        ))}
      </div>
      {rows[hitIndex] && (
        <Candidates
          row={rows[hitIndex]}
          stale={table.stale}
          onTune={(note) => void tune(hitIndex, note)}
        />
      )}
    </div>
  );
}

function Sounds({ row }: { row: Pitched }) {
  const { hit } = row;
  if (hit.note === null || hit.cents === null) {
    const strongest = row.partials.length > 0 && row.moves.length > 0;
    return (
      <span className="tune-sounds" title={hit.reasons["fundamental_hz"]}>
        {strongest ? "its strongest tone" : "no pitch"}
        <small>{hit.reasons["fundamental_hz"]}</small>
      </span>
    );
  }
  return (
    <span className="tune-sounds">
      <b>{hit.note}</b> {cents(hit.cents)}
      <small>
        ± {Math.max(0.1, hit.fundamental_sigma_cents ?? 0).toFixed(1)} ·{" "}
        {maybe(hit.fundamental_hz, (hz) => `${hz.toFixed(2)} Hz`)}
        {hit.pitch_confidence < 0.9 && `, ${Math.round(100 * hit.pitch_confidence)} % sure`}
      </small>
    </span>
  );
}

/** The smallest wanted move, to be taken at once. */
function Nearest(props: { row: Pitched; stale: boolean; onTune: (note: string) => void }) {
  const { row, stale } = props;
  const move = row.moves[0];
  if (row.aim === "free") return <span className="calm">deliberately free</span>;
  if (!move?.wanted) return <span className="calm">nothing to tune</span>;
  if (row.in_tune) return <span className="tune-good">✓ in tune</span>;
  return (
    <Button
      size="sm"
      disabled={stale}
      title={`Tune the ${row.name} to ${move.note}`}
      onClick={() => props.onTune(move.note)}
    >
      → {move.note} {cents(move.shift_cents)}
    </Button>
  );
}
