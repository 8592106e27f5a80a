import { line } from "d3-shape";
import { useMemo, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { api, type Brief, type Hit, type Stage, type StageReport } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { decibels } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { chainOf, defaults, editChain, editHit, hitsOf } from "../../track/edits";
import { useLatest } from "../../track/latest";
import type { TabProps } from "./HitsStep";

const NAMES: Record<Stage["stage"], string> = {
  trim: "trim and fades",
  equaliser: "equaliser",
  drive: "drive",
  transient: "transient",
  compressor: "compressor",
  clip: "ceiling",
  space: "space",
  delay: "delay",
  grains: "grains",
  level: "level and pan",
};
interface Question {
  brief: Brief;
  hit: Hit;
  layer: number | null;
}
const askStages = ({ brief, hit, layer }: Question) => api.stages(brief, hit, layer);

/** The chain of the whole hit or of one layer, in an order of one's own. */
export function ShapeTab({ index, layer, chooseLayer }: TabProps) {
  const { shown, change, controls, strike } = useDesk();
  const hit = hitsOf(shown)[index] as Hit;
  const [whole, setWhole] = useState(true);
  const [wish, choose] = useState(0);
  const at = whole ? null : layer;
  const chain = chainOf(hit, at);
  const { brief } = shown;
  const reports = useLatest(
    useMemo(() => ({ brief, hit, layer: at }), [brief, hit, at]),
    askStages,
  );
  const chosen = Math.min(wish, chain.length - 1);
  const stage = chain[chosen];
  const sheet = stage && controls[`stage:${stage.stage}`];
  const edit = (to: (old: Stage[]) => Stage[]) => change(editHit(index, editChain(at, to)));
  const put = (changes: object) =>
    edit((old) => old.map((one, n) => (n === chosen ? ({ ...one, ...changes } as Stage) : one)));
  const move = (by: number) => {
    const to = chosen + by;
    if (to < 0 || to >= chain.length) return;
    edit((old) => {
      const next = [...old];
      [next[chosen], next[to]] = [next[to]!, next[chosen]!];
      return next;
    });
    choose(to);
  };
  const add = (name: string) => {
    const fresh = { stage: name, bypass: false, ...defaults(controls[`stage:${name}`]) } as Stage;
    edit((old) => [...old, fresh]);
    choose(chain.length);
  };
  const report = reports.data?.[chosen];
  return (
    <div className="shape">
      <div className="chain" role="group" aria-label="Chain of stages">
        <select
          className="form-select form-select-sm chain-of"
          aria-label="What is shaped"
          value={whole ? "hit" : layer}
          onChange={(event) => {
            setWhole(event.target.value === "hit");
            if (event.target.value !== "hit") chooseLayer(Number(event.target.value));
          }}
        >
          <option value="hit">the whole hit</option>
          {hit.layers.map((one, n) => (
            <option key={n} value={n}>
              layer {n + 1}: {one.name}
            </option>
          ))}
        </select>
        {chain.map((one, n) => (
          <Button
            key={n}
            size="sm"
            variant={n === chosen ? "secondary" : "outline-secondary"}
            aria-pressed={n === chosen}
            className={one.bypass ? "stage bypassed" : "stage"}
            onClick={() => choose(n)}
          >
            {n + 1} {NAMES[one.stage]}
            {one.bypass && " (off)"}
          </Button>
        ))}
        <select
          className="form-select form-select-sm add-hit"
          aria-label="Add a stage"
          value=""
          disabled={chain.length >= 12}
          onChange={(event) => event.target.value && add(event.target.value)}
        >
          <option value="">+ stage…</option>
          {Object.entries(NAMES).map(([name, text]) => (
            <option key={name} value={name}>
              {text}
            </option>
          ))}
        </select>
      </div>
      {!stage || !sheet ? (
        <p className="calm">
          Nothing is done to {whole ? "the hit" : "this layer"} yet. Add a stage: an equaliser to
          cut what boxes at 350 Hz, drive on 120–300 Hz for thump, a transient for the onset.
        </p>
      ) : (
        <div className="stage-body">
          <div>
            <div className="stage-buttons">
              <ButtonGroup size="sm">
                <Button
                  variant={stage.bypass ? "secondary" : "outline-secondary"}
                  aria-pressed={stage.bypass}
                  onClick={() => put({ bypass: !stage.bypass })}
                >
                  bypass
                </Button>
                <Button
                  variant="outline-secondary"
                  aria-label="Move the stage earlier"
                  onClick={() => move(-1)}
                >
                  ←
                </Button>
                <Button
                  variant="outline-secondary"
                  aria-label="Move the stage later"
                  onClick={() => move(1)}
                >
                  →
                </Button>
                <Button
                  variant="outline-secondary"
                  onClick={() => edit((old) => old.filter((_, n) => n !== chosen))}
                >
                  remove
                </Button>
              </ButtonGroup>
              <ButtonGroup size="sm" aria-label="The stage by itself, equally loud">
                {[false, true].map((after) => (
                  <Button
                    key={String(after)}
                    variant="outline-secondary"
                    onClick={() => strike({ ear: { layer: at, stage: chosen, after } })}
                  >
                    {after ? "hear after" : "hear before"}
                  </Button>
                ))}
              </ButtonGroup>
            </div>
            <Controls sheet={sheet} recipe={stage} onChange={put} />
          </div>
          {report && <Report report={report} dim={reports.stale} />}
        </div>
      )}
    </div>
  );
}

const WIDTH = 200;
const HEIGHT = 74;
const REACH_DB = 24;

/** What a stage did: its curve and its numbers. */
function Report({ report, dim }: { report: StageReport; dim: boolean }) {
  const { curve_db: curve, over } = report;
  const y = (db: number) =>
    HEIGHT / 2 - (Math.max(-REACH_DB, Math.min(REACH_DB, db)) / REACH_DB) * (HEIGHT / 2 - 4);
  const path = line<number>()
    .x((_, n) => (n * WIDTH) / Math.max(1, curve.length - 1))
    .y(y)(curve);
  return (
    <div className={dim ? "report dim" : "report"} role="group" aria-label="What the stage did">
      {curve.length > 1 && (
        <>
          <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden>
            <line x1={0} x2={WIDTH} y1={y(0)} y2={y(0)} className="grid" />
            <path d={path ?? ""} className="duck-line" />
          </svg>
          <small>
            {over === "frequency" ? "20 Hz to 20 kHz" : `0 to ${curve.length} ms`}, ±{REACH_DB} dB
          </small>
        </>
      )}
      <table className="values">
        <tbody>
          <tr>
            <th scope="row">peak</th>
            <td>
              {decibels(report.peak_in_dbfs)} → {decibels(report.peak_out_dbfs)}
            </td>
          </tr>
          <tr>
            <th scope="row">loudness</th>
            <td>
              {report.lufs_in.toFixed(1).replace("-", "−")} →{" "}
              {report.lufs_out.toFixed(1).replace("-", "−")} LUFS
            </td>
          </tr>
          <tr>
            <th scope="row">level match</th>
            <td>{decibels(report.match_db)}</td>
          </tr>
          {report.least_db !== null && (
            <tr>
              <th scope="row">{over === "frequency" ? "deepest cut" : "most reduction"}</th>
              <td>{decibels(report.least_db)}</td>
            </tr>
          )}
          {report.harmonics_db && (
            <tr>
              <th scope="row">adds 2nd, 3rd</th>
              <td>
                {report.harmonics_db
                  .slice(0, 2)
                  .map((db) => (db < -90 ? "none" : decibels(db, 0)))
                  .join(", ")}
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}
