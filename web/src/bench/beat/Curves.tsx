import { area, line } from "d3-shape";
import type { HitCloseup, HitView, LoopCloseup } from "../../api/client";
import { cents, maybe, millis } from "../scale";
import { ends, gainScale, hzScale, MARGIN, type Scale } from "./frame";
import { topOf, Wave } from "./Waves";

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
  near: HitCloseup | null;
}) {
  const { view, x, up, axis, bottom, near } = props;
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
      {near && (
        <Wave
          wave={near.wave}
          from={near.from_ms}
          to={near.to_ms}
          x={x}
          top={topOf(near.wave)}
          middle={(MARGIN.top + axis) / 2}
          room={(axis - MARGIN.top) / 2}
        />
      )}
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

/** Levels of kick and bass over a stretch of time, in ms on the picture. */
export type Levels = Pick<
  LoopCloseup,
  "kick_db" | "bass_db" | "ducked_db" | "gain_db" | "collisions_after" | "cuts"
> & { from: number; to: number; waves: Pick<LoopCloseup, "kick_wave" | "ducked_wave"> | null };

/** Kick above, bass below, the ducking and the collisions across. */
export function Both(props: {
  levels: Levels;
  x: Scale;
  up: Scale;
  down: Scale;
  axis: number;
  height: number;
}) {
  const { levels: bar, x, up, down, axis, height } = props;
  const { from, to, waves } = bar;
  const ms = (n: number, of: number[]) => from + (n * (to - from)) / of.length;
  const shape = (levels: number[], y: Scale) =>
    area<number>()
      .x((_, n) => x(ms(n, levels)))
      .y0(axis)
      .y1((db) => y(db))(levels) ?? "";
  const edge = (levels: number[], y: Scale) =>
    line<number>()
      .x((_, n) => x(ms(n, levels)))
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
      {waves &&
        [
          { wave: waves.kick_wave, end: MARGIN.top },
          { wave: waves.ducked_wave, end: height - MARGIN.bottom },
        ].map(({ wave, end }) => (
          <Wave
            key={end}
            wave={wave}
            from={from}
            to={to}
            x={x}
            top={topOf(waves.kick_wave, waves.ducked_wave)}
            middle={(end + axis) / 2}
            room={Math.abs(end - axis) / 2}
          />
        ))}
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
