import { cents, decibels, maybe, millis, signed } from "../bench/scale";
import type { HitView } from "../api/client";
import type { Latestly } from "../track/latest";

const BANDS = ["sub", "thump", "boom", "box", "mid", "snap", "air"];

/** The measured numbers of a hit, the important ones large. */
export function HitNumbers({ of, name }: { of: Latestly<HitView>; name: string }) {
  const view = of.data;
  if (!view) return null;
  const hit = view.hit;
  const bands = (hit.bands_db ?? {}) as Record<string, number>;
  const why = hit.reasons["fundamental_hz"];
  return (
    <>
      <div
        className={`numbers${of.stale ? " dim" : ""}`}
        aria-label={`Numbers of the ${name.toLowerCase()}`}
        role="group"
      >
        <div className="number number-big">
          <span>note</span>
          <b>{hit.note ?? "–"}</b>
          {hit.cents !== null && hit.fundamental_sigma_cents !== null ? (
            <small>
              {cents(hit.cents)} ± {Math.max(0.1, hit.fundamental_sigma_cents).toFixed(1)} ·{" "}
              {hit.fundamental_hz?.toFixed(2)} Hz
            </small>
          ) : (
            <small title={why}>{why}</small>
          )}
        </div>
        <Number name="settles after" value={maybe(hit.settle_ms, millis)} />
        <Number
          name="60 dB decay"
          value={maybe(hit.decay60_ms, millis)}
          title={hit.reasons["decay60_ms"]}
        />
        <Number
          name="length"
          value={millis(hit.length_ms)}
          small={`${view.length_value} ${signed(view.length_difference_ms, 0)} ms`}
        />
        <Number
          name="peak"
          value={decibels(hit.peak_dbfs)}
          small={`true ${decibels(hit.true_peak_dbtp)}TP`}
        />
        <Number name="crest" value={maybe(hit.crest_db, decibels)} />
      </div>
      <div className="bands" role="list" aria-label="Energy per band, in dB of the whole">
        {BANDS.map((band) => (
          <span key={band} role="listitem">
            {band}
            <b>{bands[band] === undefined ? "–" : bands[band].toFixed(0).replace("-", "−")}</b>
            <Usual band={band} value={bands[band]} usual={view.usual} />
            <svg viewBox="0 0 40 4" preserveAspectRatio="none" aria-hidden>
              <rect
                className="kick-area"
                width={Math.max(0, 40 + (bands[band] ?? -40))}
                height="4"
              />
              {view.usual
                .filter((one) => one.band === band)
                .map(({ low_db, high_db }) => (
                  <rect
                    key={band}
                    className="usual"
                    x={Math.max(0, 40 + low_db)}
                    width={Math.max(0.5, high_db - Math.max(low_db, -40))}
                    y="1.5"
                    height="1"
                  />
                ))}
            </svg>
          </span>
        ))}
      </div>
    </>
  );
}

/** A word where a region lies outside what is usual for its kind. */
function Usual(props: { band: string; value: number | undefined; usual: HitView["usual"] }) {
  const range = props.usual.find((one) => one.band === props.band);
  if (!range || props.value === undefined) return null;
  const said = `usual: ${minus(range.low_db)} to ${minus(range.high_db)} dB of the whole`;
  const word = props.value < range.low_db ? "low" : props.value > range.high_db ? "high" : "";
  return (
    <em className="usual-word" title={said}>
      {word}
    </em>
  );
}

const minus = (db: number) => (db <= -99 ? "nothing" : String(db).replace("-", "−"));

function Number(props: {
  name: string;
  value: string;
  small?: string;
  title?: string | undefined;
}) {
  return (
    <div className="number" title={props.title}>
      <span>{props.name}</span>
      <b>{props.value}</b>
      {props.small && <small>{props.small}</small>}
    </div>
  );
}
