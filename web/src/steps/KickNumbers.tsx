import { cents, decibels, maybe, millis, signed } from "../bench/scale";
import { useDesk } from "../track/context";

const BANDS = ["sub", "thump", "boom", "box", "mid", "snap", "air"];

/** The measured numbers of the kick, the important ones large. */
export function KickNumbers() {
  const { kick } = useDesk();
  const view = kick.data;
  if (!view) return null;
  const hit = view.hit;
  const bands = (hit.bands_db ?? {}) as Record<string, number>;
  const why = hit.reasons["fundamental_hz"];
  return (
    <>
      <div
        className={`numbers${kick.stale ? " dim" : ""}`}
        aria-label="Numbers of the kick"
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
          name="down 60 dB after"
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
            <svg viewBox="0 0 40 1" preserveAspectRatio="none" aria-hidden>
              <rect
                className="kick-area"
                width={Math.max(0, 40 + (bands[band] ?? -40))}
                height="1"
              />
            </svg>
          </span>
        ))}
      </div>
    </>
  );
}

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
