import { area, line } from "d3-shape";
import type { HitView } from "../../api/client";
import { useDesk } from "../../track/context";
import { cents, maybe, millis } from "../scale";
import { ends, gainScale, hzScale, MARGIN, type Scale } from "./frame";

/** Where a sound is choked: a stop across its side of the axis. */
function Cut({ x, from, to, told }: { x: number; from: number; to: number; told: string }) {
  return (
    <path className="cut" d={`M${x - 4},${to} H${x} V${from}`}>
      <title>{told}</title>
    </path>
  );
}

/** A hit by itself: envelope above, frequency below. */
export function HitAlone(props: {
  view: HitView;
  x: Scale;
  up: Scale;
  axis: number;
  bottom: number;
}) {
  const { view, x, up, axis, bottom } = props;
  const { picture, hit } = view;
  const hz = hzScale(axis, bottom);
  const shape = area<number>()
    .x((_, n) => x(n * picture.step_ms))
    .y0(axis)
    .y1((db) => up(db))(picture.envelope_db);
  const trace = line<[number, number]>()
    .x(([ms]) => x(ms))
    .y(([, f]) => hz(f))(
    picture.trace_ms.map((ms, n): [number, number] => [ms, picture.trace_hz[n] ?? 0]),
  );
  const settled =
    hit.settle_ms === null || hit.onset_ms === null ? null : hit.onset_ms + hit.settle_ms;
  return (
    <>
      <path d={shape ?? ""} className="kick-area" />
      {hit.fundamental_hz !== null && (
        <>
          <line
            x1={ends(x)[0]}
            x2={ends(x)[1]}
            y1={hz(hit.fundamental_hz)}
            y2={hz(hit.fundamental_hz)}
            className="pitch-line"
          />
          <text
            x={ends(x)[1] - 6}
            y={hz(hit.fundamental_hz) - 5}
            textAnchor="end"
            className="pitch-text"
          >
            {hit.note} {maybe(hit.cents, cents)}
          </text>
        </>
      )}
      <path d={trace ?? ""} className="trace" />
      {settled !== null && (
        <g>
          <line x1={x(settled)} x2={x(settled)} y1={axis} y2={bottom} className="settle-line" />
          <text x={x(settled) + 4} y={axis + 14} className="pitch-text">
            settled at {millis(settled)}
          </text>
        </g>
      )}
    </>
  );
}

/** Kick above, bass below, the ducking and the collisions across. */
export function Both(props: { x: Scale; up: Scale; down: Scale; axis: number; height: number }) {
  const { answer } = useDesk();
  const { x, up, down, axis, height } = props;
  const bar = answer.data?.bar;
  if (!bar) return null;
  const shape = (levels: number[], y: Scale) =>
    area<number>()
      .x((_, ms) => x(ms))
      .y0(axis)
      .y1((db) => y(db))(levels) ?? "";
  const edge = (levels: number[], y: Scale) =>
    line<number>()
      .x((_, ms) => x(ms))
      .y((db) => y(db))(levels) ?? "";
  const clash = bar.collisions_after.map(({ from_ms, to_ms }) => (
    <rect
      key={from_ms}
      x={x(from_ms)}
      width={Math.max(1, x(to_ms) - x(from_ms))}
      y={MARGIN.top}
      height={height - MARGIN.top - MARGIN.bottom}
      fill="url(#hatch)"
      className="clash"
    />
  ));
  return (
    <>
      <path d={shape(bar.kick_db, up)} className="kick-area" />
      <path d={edge(bar.bass_db, down)} className="bass-edge" />
      <path d={shape(bar.ducked_db, down)} className="bass-area" />
      {clash}
      <path d={edge(bar.gain_db, gainScale(height))} className="duck-line" />
      {bar.cuts.map(({ at_ms, of_kick, what, by }) => (
        <Cut
          key={`${what} ${at_ms}`}
          x={x(at_ms)}
          from={axis}
          to={of_kick ? MARGIN.top + 8 : height - MARGIN.bottom - 8}
          told={`${what} choked by ${by}`}
        />
      ))}
    </>
  );
}
