import { line } from "d3-shape";
import type { StageReport } from "../../api/client";
import { decibels } from "../scale";

const WIDTH = 200;
const HEIGHT = 74;
const REACH_DB = 24;

/** What a stage did: its curve and its numbers. */
export function Report({ report, dim }: { report: StageReport; dim: boolean }) {
  const { curve_db: curve, over } = report;
  const y = (db: number) =>
    HEIGHT / 2 - (Math.max(-REACH_DB, Math.min(REACH_DB, db)) / REACH_DB) * (HEIGHT / 2 - 4);
  const path = line<number>()
    .x((_, n) => (n * WIDTH) / Math.max(1, curve.length - 1))
    .y(y)(curve);
  return (
    <div className={dim ? "report dim" : "report"} role="group" aria-label="What the stage did">
      {over === "time" && curve.length > 1 && (
        <>
          <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden>
            <line x1={0} x2={WIDTH} y1={y(0)} y2={y(0)} className="grid" />
            <path d={path ?? ""} className="duck-line" />
          </svg>
          <small>
            0 to {curve.length} ms, ±{REACH_DB} dB
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
