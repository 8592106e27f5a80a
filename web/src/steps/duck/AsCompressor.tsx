import { line } from "d3-shape";
import { scaleLinear } from "d3-scale";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Ducking, type Keyed, type TrackState } from "../../api/client";
import { decibels } from "../../bench/scale";
import { useDesk } from "../../track/context";
import "./compressor.css";

const WIDTH = 260;
const HEIGHT = 90;

/** The curve as a compressor makes it: settings to be dialled in anywhere, and what is left. */
export function AsCompressor({ one }: { one: Ducking }) {
  const { state, say, controls } = useDesk();
  const [solved, setSolved] = useState<{ found: Keyed[]; of: TrackState } | null>(null);
  const [solving, setSolving] = useState(false);
  const sheet = controls["keyed"];
  const solve = () => {
    setSolving(true);
    api
      .asCompressor(state, one.id)
      .then((found) => setSolved({ found, of: state }))
      .catch((error: Error) => say(error.message))
      .finally(() => setSolving(false));
  };
  const stale = solved !== null && solved.of !== state;
  return (
    <section className="as-compressor" aria-label="As a compressor">
      <Button size="sm" variant="outline-primary" disabled={solving || !one.on} onClick={solve}>
        {solving ? "Solving…" : "As a compressor"}
      </Button>{" "}
      {solved === null && (
        <span className="why">
          Settings, keyed by what starts it, that come closest to this curve.
        </span>
      )}
      {stale && <span className="why">The track has changed since: solve again.</span>}
      {solved && (
        <div className={stale ? "compressors dim" : "compressors"}>
          {solved.found.map((one, n) => (
            <div key={n} role="group" aria-label={n === 0 ? "With a hold" : "Without a hold"}>
              <h2>
                {n === 0 ? "with a hold" : "without a hold"}{" "}
                <small>{decibels(one.difference_db)} RMS off the curve</small>
              </h2>
              <Curves wanted={one.curve_db} made={one.made_db} />
              <dl>
                {sheet?.controls
                  .map((control): [string, number, string] => [
                    control.label,
                    (one.settings as unknown as Record<string, number>)[control.name] ?? 0,
                    control.unit,
                  ])
                  .filter(([label, value]) => value !== 0 || label === "Hold")
                  .map(([label, value, unit]) => (
                    <div key={label}>
                      <dt>{label}</dt>
                      <dd>
                        {String(value).replace("-", "−")} {unit}
                      </dd>
                    </div>
                  ))}
                <div>
                  <dt>Detector</dt>
                  <dd>{one.settings.detector}</dd>
                </div>
              </dl>
              {one.warnings.map((warning) => (
                <p key={warning} className="warn">
                  {warning}
                </p>
              ))}
            </div>
          ))}
        </div>
      )}
    </section>
  );
}

/** The drawn curve, and dashed the compressor's, from one trigger to the next. */
function Curves({ wanted, made }: { wanted: number[]; made: number[] }) {
  const deepest = Math.min(-3, ...wanted, ...made);
  const x = scaleLinear([0, wanted.length - 1], [0, WIDTH]);
  const y = scaleLinear([0, deepest], [4, HEIGHT - 4]);
  const path = line<number>()
    .x((_, ms) => x(ms))
    .y((db) => y(db));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="compressor-curves"
      preserveAspectRatio="none"
      aria-hidden
    >
      <path d={path(wanted) ?? ""} className="duck-line" />
      <path d={path(made) ?? ""} className="made-line" />
    </svg>
  );
}
