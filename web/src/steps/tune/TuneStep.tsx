import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Pitched, type Tuned } from "../../api/client";
import { cents, millis } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { rootsOf } from "../../track/edits";
import { useLatest } from "../../track/latest";
import { editHit, hitOf, partOf } from "../../track/parts";
import { Candidates } from "./Candidates";
import { Ear } from "./Ear";
import "./tune.css";

/** What every hit of the track sounds, and the smallest move that puts it in key. */
export function TuneStep() {
  const { shown, state, facts, change, controls, partId, hitId, choosePart, strike, say } =
    useDesk();
  const table = useLatest(shown, api.tuneTable);
  const [preview, setPreview] = useState<{ tuned: Tuned; of: typeof state } | null>(null);
  const rows = table.data?.hits ?? [];
  const atHand = partOf(shown, partId);
  const inHand = rows.find((row) => row.id === hitId);
  const off = rows.filter((row) => !row.in_tune && row.moves[0]?.wanted);
  const aims = controls["hit"]?.choices.find((choice) => choice.name === "aim");
  const fail = (error: Error) => say(error.message);
  const tune = ({ id }: Pitched, note: string) =>
    api
      .tune(state, id, note)
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
        {atHand && atHand.part !== "hit" && (
          <p className="lead">
            {atHand.name} is no hit: what it plays is written in its notes. Here hits are tuned.
          </p>
        )}
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
              <li key={one.id}>
                <b>{one.name}</b> {one.from_hz.toFixed(2)} Hz → <b>{one.note}</b>,{" "}
                {cents(one.shift_cents)}, {millis(one.length_before_ms)}
                {Math.abs(one.length_after_ms - one.length_before_ms) > 1 &&
                  ` → ${millis(one.length_after_ms)}`}
                , {Math.abs(one.left_cents).toFixed(2)} ¢ left
                <Button
                  size="sm"
                  variant="outline-secondary"
                  aria-label={`Hear the ${one.name} as it is`}
                  onClick={() => strike({}, hitOf(state, one.id))}
                >
                  before
                </Button>
                <Button
                  size="sm"
                  variant="outline-secondary"
                  aria-label={`Hear the ${one.name} tuned`}
                  onClick={() => strike({}, hitOf(planned.state, one.id))}
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
              say("Tuned. Undo takes it back.");
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
            key={row.id}
            role="listitem"
            className={row === inHand ? "tune-row at-hand" : "tune-row"}
          >
            <Button
              size="sm"
              variant={row === inHand ? "secondary" : "outline-secondary"}
              aria-pressed={row === inHand}
              onClick={() => choosePart(row.id)}
            >
              {row.name}
            </Button>
            <Sounds row={row} />
            <select
              className="form-select form-select-sm"
              aria-label={`Aim of the ${row.name}`}
              title={aims?.help}
              value={hitOf(shown, row.id).aim}
              onChange={(event) =>
                change(
                  editHit(row.id, (old) => ({
                    ...old,
                    aim: event.target.value as typeof old.aim,
                  })),
                )
              }
            >
              {aims?.options.map((option) => (
                <option key={option} value={option}>
                  {option === "by kind" && row.aim === "free" ? "by kind: free" : option}
                </option>
              ))}
            </select>
            <span className="tune-act">
              <Nearest row={row} stale={table.stale} onTune={(note) => void tune(row, note)} />
            </span>
          </div>
        ))}
      </div>
      {inHand && (
        <>
          <Ear row={inHand} key={inHand.id} />
          <Candidates row={inHand} stale={table.stale} onTune={(note) => void tune(inHand, note)} />
        </>
      )}
    </div>
  );
}

const DEGREES: Record<NonNullable<Pitched["sounds"]>["degree"], string> = {
  "by ear": "by your ear",
  sure: "",
  "note sure, cents not": "note sure, cents not",
  about: "about",
};

function Sounds({ row: { hit, sounds } }: { row: Pitched }) {
  const why = hit.reasons["fundamental_hz"];
  if (sounds === null)
    return (
      <span className="tune-sounds" title={why}>
        no pitch
        <small>{why}</small>
      </span>
    );
  const degree = DEGREES[sounds.degree];
  return (
    <span className="tune-sounds" title={degree ? why : undefined}>
      <b>{sounds.note}</b> {cents(sounds.cents)}
      <small>
        {sounds.degree !== "by ear" && `± ${Math.max(0.1, sounds.sigma_cents).toFixed(1)} ¢ · `}
        {sounds.hz.toFixed(2)} Hz{degree && `, ${degree}`}
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
