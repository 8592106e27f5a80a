import { line } from "d3-shape";
import { useMemo, useState } from "react";
import { api, type Control, type Move, type MovePoint } from "../../api/client";
import { MOST_MOVE_POINTS } from "../../api/limits";
import { useLatest } from "../../track/latest";
import { limited } from "../beat/frame";
import { Handle } from "../Handle";
import { PointTools } from "../PointTools";
import { placeOf, shownValue, signed, valueAt } from "../scale";
import { Typed } from "../Typed";
import { useSize } from "../useSize";
import { longestWay, pointMoved, withMovePoint, withoutMovePoint } from "./moving";

const PAD = { left: 16, right: 58, top: 14, bottom: 18 };
/** A bend from straight to full over so many pixels. */
const BEND_PX = 60;
const QUARTERS = [0, 0.25, 0.5, 0.75, 1];

interface Props {
  move: Move;
  control: Control;
  onChange: (points: MovePoint[]) => void;
}

/** The curve of a move as points that are dragged, bent and typed. */
export function MoveCurve({ move, control, onChange }: Props) {
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [wish, setAt] = useState(0);
  const at = Math.min(wish, move.points.length - 1);
  const { points } = move;
  const { scale } = control;
  const curve = useLatest(
    useMemo(() => ({ move, scale }), [move, scale]),
    api.move,
  );
  const wide = Math.max(width - PAD.left - PAD.right, 50);
  const high = Math.max(height - PAD.top - PAD.bottom, 20);
  const x = (way: number) => PAD.left + way * wide;
  const y = (value: number) => PAD.top + (1 - placeOf(control, value)) * high;
  const said = (value: number) => `${shownValue(control, value)} ${control.unit}`.trim();
  const put = (n: number, to: Partial<MovePoint>) => onChange(pointMoved(points, n, to, control));
  /** A value moved by a share of the control’s whole way. */
  const shifted = (value: number, by: number) =>
    valueAt(control, limited(placeOf(control, value) + by, 0, 1));
  const add = (way: number, place: number) => {
    const more = withMovePoint(points, way, place, control);
    if (more === points) return;
    onChange(more);
    setAt(more.findIndex((point, n) => point !== points[n]));
  };
  const steps = curve.data ?? [];
  const valueAlong = (way: number) =>
    steps[Math.round(way * (steps.length - 1))] ?? points[0]?.value ?? control.default;
  const outline = line<number>()
    .x((_, n) => x(n / Math.max(steps.length - 1, 1)))
    .y(y);
  const chosen = points[at];
  const middle = at > 0 && at < points.length - 1;
  return (
    <section className="curve-editor move-curve" aria-label={`Curve of ${control.label}`}>
      <svg
        ref={ref}
        className={curve.stale ? "" : "settled"}
        onDoubleClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const down = (event.clientY - box.top - PAD.top) / high;
          add((event.clientX - box.left - PAD.left) / wide, 1 - down);
        }}
      >
        {width > 0 && (
          <>
            <g className="axes">
              {QUARTERS.map((way) => (
                <g key={way}>
                  <line x1={x(way)} x2={x(way)} y1={PAD.top} y2={PAD.top + high} className="grid" />
                  <text x={x(way)} y={height - 4} textAnchor="middle">
                    {way === 1 ? move.over : way === 0 ? "start" : `${100 * way} %`}
                  </text>
                </g>
              ))}
              {[0, 0.5, 1].map((place) => (
                <text
                  key={place}
                  x={x(1) + 6}
                  y={PAD.top + (1 - place) * high + 4}
                  className="duck-text"
                >
                  {said(valueAt(control, place))}
                </text>
              ))}
            </g>
            <path d={outline(steps) ?? ""} className="duck-line" />
            {points.slice(0, -1).map((point, n) => {
              const next = points[n + 1];
              if (!next || next.value === point.value || next.at - point.at < 0.02) return null;
              const half = (point.at + next.at) / 2;
              // Slower setting out: above the straight way down, below the straight way up.
              const up = next.value > point.value ? 1 : -1;
              const bend = (by: number) => put(n, { bend: point.bend + up * by });
              return (
                <g key={n} className="bend">
                  <Handle
                    x={x(half)}
                    y={y(valueAlong(half))}
                    label={`Bend after point ${n + 1}`}
                    value={point.bend}
                    low={-1}
                    high={1}
                    text={signed(point.bend, 2)}
                    onDrag={(_, dy) => bend(dy / BEND_PX)}
                    onNudge={(_, by) => bend(-0.05 * by)}
                  />
                </g>
              );
            })}
            {points.map((point, n) => (
              <Handle
                key={n}
                x={x(point.at)}
                y={y(point.value)}
                label={`Point ${n + 1} of the move`}
                value={point.value}
                low={control.low}
                high={control.high}
                text={`${Math.round(100 * point.at)} %, ${said(point.value)}`}
                onDrag={(dx, dy) =>
                  put(n, { at: point.at + dx / wide, value: shifted(point.value, -dy / high) })
                }
                onFocus={() => setAt(n)}
                onRemove={() => onChange(withoutMovePoint(points, n))}
                twoWays
                onNudge={(right, up) =>
                  put(n, {
                    at: point.at + 0.01 * right,
                    value: shifted(point.value, 0.01 * up),
                  })
                }
              />
            ))}
          </>
        )}
      </svg>
      <div className="curve-tools">
        <PointTools
          count={points.length}
          at={at}
          onAt={setAt}
          onAdd={
            points.length >= MOST_MOVE_POINTS
              ? null
              : () => {
                  const way = longestWay(points);
                  add(way, placeOf(control, valueAlong(way)));
                }
          }
          onRemove={middle ? () => onChange(withoutMovePoint(points, at)) : null}
        >
          {chosen && (
            <>
              {middle && (
                <Typed
                  label="at"
                  unit="%"
                  low={0}
                  high={100}
                  value={100 * chosen.at}
                  onType={(way) => put(at, { at: way / 100 })}
                />
              )}
              <Typed
                label="value"
                unit={control.unit}
                low={control.low}
                high={control.high}
                value={chosen.value}
                digits={control.step < 0.1 ? 2 : 1}
                onType={(value) => put(at, { value })}
              />
            </>
          )}
        </PointTools>
      </div>
      <p className="why">Double-click adds a point, Delete takes it away; the small ones bend.</p>
    </section>
  );
}
