import { area, line } from "d3-shape";
import { scaleLinear } from "d3-scale";
import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type DuckPoint, type DuckRecipe } from "../../api/client";
import { Handle } from "../../bench/Handle";
import { PointTools } from "../../bench/PointTools";
import { decibels, millis, signed } from "../../bench/scale";
import { Typed } from "../../bench/Typed";
import { useSize } from "../../bench/useSize";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";
import { moved, roomiest, snapped, withoutPoint, withPoint } from "./points";
import { Shapes } from "./Shapes";
import "./curve.css";

const PAD = { left: 18, right: 38, top: 16, bottom: 20 };
/** A bend from straight to full over so many pixels. */
const BEND_PX = 60;
const GRIDS = ["1/8", "1/8t", "1/16", "1/16t", "1/32", "1/64"];

interface Props {
  duck: DuckRecipe;
  onChange: (points: DuckPoint[]) => void;
  /** From one trigger to the next. */
  gap: number;
  /** What the sound would have to give up, in dB every ms from the trigger. */
  needed?: number[] | null;
}

/** The ducking as points: dragged, bent, snapped to note values or free, kept as one's own. */
export function CurveEditor({ duck, onChange, gap, needed }: Props) {
  const { facts } = useDesk();
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [at, setAt] = useState(1);
  const [grid, setGrid] = useState("free");
  const points = useMemo(() => duck.points ?? [], [duck.points]);
  const curve = useLatest(
    useMemo(() => ({ ...duck, points }), [duck, points]),
    api.curve,
  );
  const limits = curve.data;
  const step = facts.note_values.find(({ value }) => value === grid)?.ms ?? null;
  const early = duck.lookahead_ms;
  const last = (points.at(-1)?.at_ms ?? 0) - early;
  const until = Math.max(gap, last) * 1.02;
  const x = scaleLinear([-early, until], [PAD.left, Math.max(width - PAD.right, PAD.left + 50)]);
  const depth = Math.max(duck.depth_db, 0.1);
  const y = scaleLinear([0, 1], [PAD.top, Math.max(height - PAD.bottom, PAD.top + 20)]);
  const px = { ms: x(1) - x(0), share: y(1) - y(0) };
  const shareAt = (ms: number) => {
    const data = curve.data;
    return data ? (data.share[Math.round(ms / data.step_ms)] ?? 0) : 0;
  };
  const move = (n: number, to: Partial<DuckPoint>) => {
    if (limits) onChange(moved(points, n, to, limits));
  };
  const drag = (n: number, dx: number, dy: number) => {
    const point = points[n];
    if (!point) return;
    const at_ms = snapped(point.at_ms + dx / px.ms, step, early);
    move(n, { at_ms, share: point.share + dy / px.share });
  };
  const add = (ms: number, share: number) => {
    if (!limits) return;
    const more = withPoint(points, snapped(ms, step, early), share, limits);
    if (more === points) return;
    onChange(more);
    setAt(more.findIndex((point, n) => point !== points[n]));
  };
  const remove = (n: number) => onChange(withoutPoint(points, n));
  const chosen = points[at];
  const middle = at > 0 && at < points.length - 1;
  const outline = line<number>()
    .x((_, n) => x(n * (curve.data?.step_ms ?? 1) - early))
    .y((share) => y(share));
  const wanted = area<number>()
    .x((_, ms) => x(ms))
    .y0(y(0))
    .y1((db) => y(Math.min(db / depth, 1)));
  return (
    <section className="curve-editor" aria-label="Drawn curve">
      <svg
        ref={ref}
        className={curve.stale ? "" : "settled"}
        onDoubleClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          add(x.invert(event.clientX - box.left) + early, y.invert(event.clientY - box.top));
        }}
      >
        {width > 0 && limits && (
          <>
            <Grid x={x} bottom={height} step={step ?? facts.beat_ms / 4} until={until} />
            <g className="axes">
              {[0, 0.5, 1].map((share) => (
                <text key={share} x={width - PAD.right + 4} y={y(share) + 4} className="duck-text">
                  {share === 0
                    ? "0 dB"
                    : decibels(-share * duck.depth_db, duck.depth_db < 10 ? 1 : 0).replace(
                        " dB",
                        "",
                      )}
                </text>
              ))}
              {needed && (
                <text x={width - PAD.right - 6} y={PAD.top + 12} textAnchor="end">
                  shaded: what the kick needs of the bass
                </text>
              )}
            </g>
            {needed && <path d={wanted(needed) ?? ""} className="needed" />}
            <path d={outline(curve.data?.share ?? []) ?? ""} className="duck-line" />
            {points.slice(0, -1).map((point, n) => {
              const next = points[n + 1];
              if (!next || next.share === point.share) return null;
              const half = (point.at_ms + next.at_ms) / 2;
              // Slower setting out: above the straight way down, below the straight way up.
              const lower = next.share < point.share ? 1 : -1;
              const bend = (by: number) => move(n, { bend: (point.bend ?? 0) + lower * by });
              return (
                <g key={n} className="bend">
                  <Handle
                    x={x(half - early)}
                    y={y(shareAt(half))}
                    label={`Bend after point ${n + 1}`}
                    value={point.bend ?? 0}
                    low={-1}
                    high={1}
                    text={signed(point.bend ?? 0, 2)}
                    onDrag={(_, dy) => bend(dy / BEND_PX)}
                    onNudge={(_, up) => bend(-0.05 * up)}
                  />
                </g>
              );
            })}
            {points.map((point, n) => (
              <Handle
                key={n}
                x={x(point.at_ms - early)}
                y={y(point.share)}
                label={`Point ${n + 1} of the curve`}
                value={point.at_ms - early}
                low={-early}
                high={Math.round(until)}
                text={`${millis(point.at_ms - early, 1)}, ${decibels(-point.share * duck.depth_db)}`}
                onDrag={(dx, dy) => drag(n, dx, dy)}
                onFocus={() => setAt(n)}
                onRemove={() => remove(n)}
                twoWays
                onNudge={(right, up) =>
                  move(n, {
                    at_ms: right
                      ? snapped(point.at_ms + right * (step ?? 1), step, early)
                      : point.at_ms,
                    share: point.share - 0.01 * up,
                  })
                }
              />
            ))}
          </>
        )}
      </svg>
      <div className="curve-tools">
        <label className="dial-choice">
          Snap
          <select
            className="form-select form-select-sm"
            value={grid}
            onChange={(event) => setGrid(event.target.value)}
          >
            <option value="free">free</option>
            {GRIDS.map((value) => (
              <option key={value}>{value}</option>
            ))}
          </select>
        </label>
        <PointTools
          count={points.length}
          at={at}
          onAt={setAt}
          onAdd={
            limits && points.length < limits.most_points
              ? () => {
                  const ms = roomiest(points);
                  add(ms, shareAt(ms));
                }
              : null
          }
          onRemove={middle && points.length > 3 ? () => remove(at) : null}
        >
          {chosen && (
            <>
              <Typed
                label="at"
                unit="ms"
                low={-early}
                high={(limits?.latest_ms ?? 0) - early}
                value={chosen.at_ms - early}
                onType={(ms) => move(at, { at_ms: ms + early })}
              />
              {middle && (
                <Typed
                  label="takes"
                  unit="dB"
                  low={0}
                  high={duck.depth_db}
                  value={chosen.share * duck.depth_db}
                  onType={(db) => move(at, { share: db / depth })}
                />
              )}
            </>
          )}
        </PointTools>
      </div>
      <div className="curve-tools">
        <Shapes points={points} onChoose={onChange} />
        <Button size="sm" variant="outline-secondary" onClick={() => onChange([])}>
          Back to the dials
        </Button>
      </div>
      <p className="why">Double-click adds a point, Delete takes it away; the small ones bend.</p>
    </section>
  );
}

/** What a point snaps to, and the next trigger. */
function Grid(props: {
  x: ReturnType<typeof scaleLinear<number>>;
  bottom: number;
  step: number;
  until: number;
}) {
  const { x, bottom, step, until } = props;
  const count = Math.floor(until / step);
  return (
    <g className="axes">
      {Array.from({ length: count + 1 }, (_, n) => n * step).map((ms) => (
        <line
          key={ms}
          x1={x(ms)}
          x2={x(ms)}
          y1={PAD.top}
          y2={bottom - PAD.bottom}
          className="grid"
        />
      ))}
      {x.ticks(8).map((ms) => (
        <text key={ms} x={x(ms)} y={bottom - 5} textAnchor="middle">
          {ms === 0 ? "0 ms" : ms}
        </text>
      ))}
    </g>
  );
}
