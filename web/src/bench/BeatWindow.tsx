import { scaleLinear, scaleLog } from "d3-scale";
import { area, line } from "d3-shape";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { ButtonGroup, ToggleButton } from "react-bootstrap";
import type { KickView } from "../api/client";
import type { Player } from "../audio/player";
import { useDesk } from "../track/context";
import { Handle } from "./Handle";
import { cents, decibels, maybe, millis } from "./scale";
import { useSize } from "./useSize";

const FLOOR_DB = -48;
const GAIN_FLOOR_DB = -40;
const MARGIN = { left: 12, right: 38, top: 20, bottom: 20 };

interface Props {
  alone: boolean;
  player: Player;
}

/** One beat to one bar of time: kick above the axis, bass below, the ducking across both. */
export function BeatWindow({ alone, player }: Props) {
  const { facts, kick, answer, bar, setBar, shown, trial } = useDesk();
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [part, setPart] = useState<"bar" | number>("bar");
  const span = alone
    ? aloneSpan(kick.data, facts.beat_ms)
    : part === "bar"
      ? facts.bar_ms
      : facts.beat_ms;
  const from = alone || part === "bar" ? 0 : (part - 1) * facts.beat_ms;
  const x = scaleLinear([from, from + span], [MARGIN.left, Math.max(width - MARGIN.right, 60)]);
  const axis = MARGIN.top + (height - MARGIN.top - MARGIN.bottom) / 2;
  const up = scaleLinear([FLOOR_DB, 0], [axis, MARGIN.top]).clamp(true);
  const down = scaleLinear([FLOOR_DB, 0], [axis, height - MARGIN.bottom]).clamp(true);
  const ready = width > 0 && (alone ? kick.data : answer.data);
  const dim = alone ? kick.stale : answer.stale;
  return (
    <figure className="beat" aria-label="Beat window">
      <div className="beat-head">
        <strong>{alone ? "Kick" : "20–150 Hz"}</strong>
        <Legend alone={alone} />
        <span className="spring" />
        {!alone && (
          <>
            {facts.bars > 1 && (
              <Chooser
                shown="bar"
                name="bar"
                label="Bar shown"
                options={Array.from({ length: facts.bars }, (_, n) => [n, `${n + 1}`])}
                value={bar}
                onChoose={setBar}
              />
            )}
            <Chooser
              shown="beat"
              name="part"
              label="Part of the bar shown"
              options={[
                ...[1, 2, 3, 4].map((n): [number, string] => [n, `${n}`]),
                ["bar", "whole"],
              ]}
              value={part}
              onChoose={setPart}
            />
          </>
        )}
      </div>
      <svg ref={ref} className={dim ? "dim" : ""} aria-hidden={ready ? undefined : true}>
        <defs>
          <pattern id="hatch" width="7" height="7" patternUnits="userSpaceOnUse">
            <path d="M-2,2 l4,-4 M0,7 l7,-7 M5,9 l4,-4" className="hatch-line" />
          </pattern>
          <clipPath id="beat-clip">
            <rect
              x={MARGIN.left}
              y={0}
              width={Math.max(0, width - MARGIN.left - MARGIN.right)}
              height={height}
            />
          </clipPath>
        </defs>
        <TimeAxes x={x} from={from} span={span} height={height} beat={facts.beat_ms} />
        <g clipPath="url(#beat-clip)">
          {ready && alone && kick.data && (
            <KickAlone view={kick.data} x={x} up={up} axis={axis} bottom={height - MARGIN.bottom} />
          )}
          {ready && !alone && <Both x={x} up={up} down={down} axis={axis} height={height} />}
        </g>
        <line x1={MARGIN.left} x2={width - MARGIN.right} y1={axis} y2={axis} className="axis" />
        {ready && alone && !trial && <TailHandle x={x} y={axis} />}
        {ready && !alone && shown.ducking && !trial && (
          <DuckHandles x={x} from={from} height={height} />
        )}
        <LevelAxis alone={alone} width={width} up={up} axis={axis} height={height} />
        <Playhead
          player={player}
          x={x}
          offset={alone ? 0 : bar * facts.bar_ms}
          span={span}
          from={from}
          height={height}
        />
      </svg>
      <figcaption className="visually-hidden">
        <Described alone={alone} />
      </figcaption>
    </figure>
  );
}

type Scale = ReturnType<typeof scaleLinear<number>>;
const limited = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));
const pixelsPerMs = (x: Scale) => x(1) - x(0);

/** The end of a made kick, dragged. */
function TailHandle({ x, y }: { x: Scale; y: number }) {
  const { shown, change } = useDesk();
  if (shown.kick.kind !== "made" || shown.kick.recipe.length_note !== "ms") return null;
  const length = shown.kick.recipe.length_ms;
  const set = (ms: number) =>
    change((old) =>
      old.kick.kind === "made"
        ? {
            ...old,
            kick: {
              ...old.kick,
              recipe: { ...old.kick.recipe, length_ms: Math.round(limited(ms, 40, 2000)) },
            },
          }
        : old,
    );
  return (
    <Handle
      x={Math.min(x(length), x.range()[1] as number)}
      y={y}
      label="End of the kick"
      value={length}
      low={40}
      high={2000}
      text={millis(length)}
      onDrag={(dx) => set(length + dx / pixelsPerMs(x))}
      onNudge={(right) => set(length + 5 * right)}
    />
  );
}

function aloneSpan(view: KickView | null, beat: number): number {
  const length = view?.hit.length_ms ?? beat;
  return [1, 2, 4].map((beats) => beats * beat).find((span) => span >= length * 1.02) ?? 4 * beat;
}

function Chooser<V extends string | number>(props: {
  name: string;
  shown: string;
  label: string;
  options: [V, string][];
  value: V;
  onChoose: (value: V) => void;
}) {
  return (
    <span className="chooser">
      <span aria-hidden>{props.shown}</span>
      <ButtonGroup size="sm" aria-label={props.label}>
        {props.options.map(([value, text]) => (
          <ToggleButton
            key={value}
            id={`beat-${props.name}-${value}`}
            type="radio"
            name={`beat-${props.name}`}
            variant="outline-secondary"
            value={String(value)}
            checked={props.value === value}
            onChange={() => props.onChoose(value)}
          >
            {text}
          </ToggleButton>
        ))}
      </ButtonGroup>
    </span>
  );
}

function Legend({ alone }: { alone: boolean }) {
  const items: [string, ReactNode][] = alone
    ? [
        ["envelope, above", <rect key="k" className="kick-area" width="14" height="8" y="2" />],
        ["frequency, below", <path key="f" className="trace" d="M0,3 C4,3 5,8 14,8" />],
      ]
    : [
        ["kick", <rect key="k" className="kick-area" width="14" height="8" y="2" />],
        ["bass", <rect key="b" className="bass-area" width="14" height="8" y="2" />],
        ["ducking", <path key="d" className="duck-line" d="M0,2 L3,10 L7,10 L14,2" />],
        [
          "collision",
          <rect key="c" fill="url(#hatch)" className="clash" width="14" height="10" y="1" />,
        ],
      ];
  return (
    <span className="legend">
      {items.map(([name, mark]) => (
        <span key={name}>
          <svg width="14" height="12" aria-hidden>
            {mark}
          </svg>
          {name}
        </span>
      ))}
    </span>
  );
}

function TimeAxes(props: { x: Scale; from: number; span: number; height: number; beat: number }) {
  const { x, from, span, height, beat } = props;
  const sixteenth = beat / 4;
  const count = Math.round(span / sixteenth);
  const first = Math.round(from / sixteenth);
  const names = ["", "1/16", "1/8", "1/8."];
  return (
    <g className="axes">
      {x.ticks(8).map((ms) => (
        <text key={ms} x={x(ms)} y={12} textAnchor={ms === from ? "start" : "middle"}>
          {ms === 0 ? "0 ms" : Math.round(ms)}
        </text>
      ))}
      {Array.from({ length: count + 1 }, (_, n) => {
        const at = x((first + n) * sixteenth);
        const strong = (first + n) % 4 === 0;
        const name = strong ? `${(first + n) / 4 + 1}` : count <= 8 ? names[(first + n) % 4] : "";
        return (
          <g key={n}>
            <line
              x1={at}
              x2={at}
              y1={16}
              y2={height - 16}
              className={strong ? "beat-line" : "grid"}
            />
            {name && n < count && (
              <text
                x={at}
                y={height - 4}
                textAnchor={n === 0 ? "start" : "middle"}
                className={strong ? "strong" : ""}
              >
                {strong ? `beat ${name}` : name}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

function LevelAxis(props: {
  alone: boolean;
  width: number;
  up: Scale;
  axis: number;
  height: number;
}) {
  const { width, up, axis, height, alone } = props;
  const at = width - MARGIN.right + 4;
  const gain = gainScale(height);
  return (
    <g className="axes">
      {alone
        ? [0, -12, -24, -36].map((db) => (
            <text key={db} x={at} y={up(db) + 4}>
              {db === 0 ? "0 dB" : `−${-db}`}
            </text>
          ))
        : [0, -12, -24, -36].map((db) => (
            <text key={db} x={at} y={gain(db) + 4} className="duck-text">
              {db === 0 ? "0 dB" : `−${-db}`}
            </text>
          ))}
      {alone &&
        [50, 100, 200, 400].map((hz) => (
          <text key={hz} x={at} y={hzScale(axis, height - MARGIN.bottom)(hz) + 4}>
            {hz === 400 ? "400 Hz" : hz}
          </text>
        ))}
    </g>
  );
}

const hzScale = (axis: number, bottom: number) =>
  scaleLog([25, 800], [bottom - 2, axis + 8]).clamp(true);
const gainScale = (height: number) =>
  scaleLinear([0, GAIN_FLOOR_DB], [MARGIN.top + 4, height - MARGIN.bottom - 4]).clamp(true);

function KickAlone(props: { view: KickView; x: Scale; up: Scale; axis: number; bottom: number }) {
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
            x1={x.range()[0]}
            x2={x.range()[1]}
            y1={hz(hit.fundamental_hz)}
            y2={hz(hit.fundamental_hz)}
            className="pitch-line"
          />
          <text
            x={(x.range()[1] as number) - 6}
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

function Both(props: { x: Scale; up: Scale; down: Scale; axis: number; height: number }) {
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
    </>
  );
}

function DuckHandles({ x, from, height }: { x: Scale; from: number; height: number }) {
  const { shown, facts, bar, controls, change } = useDesk();
  const duck = shown.duck;
  const start = facts.kick_times_ms
    .map((ms) => ms - bar * facts.bar_ms)
    .find((ms) => ms >= from - 1 && ms < (x.domain()[1] as number));
  if (start === undefined || duck.depth_db === 0) return null;
  const gain = gainScale(height);
  const limits = (name: string) =>
    controls.duck?.controls.find((control) => control.name === name) ?? { low: 0, high: 1 };
  const set = (changes: Record<string, number>) =>
    change((old) => {
      const next = { ...old.duck };
      for (const [name, value] of Object.entries(changes)) {
        const { low, high } = limits(name);
        const rounded = Math.round(limited(value, low, high) * 10) / 10;
        next[name as "hold_ms" | "depth_db" | "release_ms"] = rounded;
      }
      return { ...old, duck: next };
    });
  const ms = pixelsPerMs(x);
  const db = Math.abs(gain(-1) - gain(0));
  const bottomAt = start - duck.lookahead_ms + duck.attack_ms + duck.hold_ms;
  const backAt = bottomAt + duck.release_ms;
  return (
    <>
      <Handle
        x={limited(x(bottomAt), x.range()[0] as number, x.range()[1] as number)}
        y={gain(-duck.depth_db)}
        label="Depth and hold of the ducking"
        value={duck.depth_db}
        low={limits("depth_db").low}
        high={limits("depth_db").high}
        text={`${decibels(duck.depth_db)} deep, held ${millis(duck.hold_ms)}`}
        onDrag={(dx, dy) =>
          set({ hold_ms: duck.hold_ms + dx / ms, depth_db: duck.depth_db + dy / db })
        }
        onNudge={(right, above) =>
          set({ hold_ms: duck.hold_ms + right, depth_db: duck.depth_db - 0.5 * above })
        }
      />
      <Handle
        x={limited(x(backAt), x.range()[0] as number, x.range()[1] as number)}
        y={gain(0)}
        label="Return of the bass"
        value={duck.release_ms}
        low={limits("release_ms").low}
        high={limits("release_ms").high}
        text={`release ${millis(duck.release_ms)}`}
        onDrag={(dx) => set({ release_ms: duck.release_ms + dx / ms })}
        onNudge={(right) => set({ release_ms: duck.release_ms + 2 * right })}
      />
    </>
  );
}

function Playhead(props: {
  player: Player;
  x: Scale;
  offset: number;
  span: number;
  from: number;
  height: number;
}) {
  const { player, x, offset, span, from, height } = props;
  const mark = useRef<SVGLineElement>(null);
  useEffect(() => {
    let frame = 0;
    const draw = () => {
      const at = player.positionMs();
      const inside = at === null ? -1 : at - offset;
      const visible = inside >= from && inside < from + span;
      mark.current?.setAttribute("visibility", visible ? "visible" : "hidden");
      if (visible) mark.current?.setAttribute("transform", `translate(${x(inside)},0)`);
      frame = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(frame);
  });
  return <line ref={mark} y1={16} y2={height - 16} className="playhead" visibility="hidden" />;
}

/** The numbers that the picture shows, for those who do not see it. */
function Described({ alone }: { alone: boolean }) {
  const { kick, answer } = useDesk();
  const hit = kick.data?.hit;
  if (alone)
    return hit ? (
      <>
        The kick peaks at {decibels(hit.peak_dbfs)}, is 60 dB down after{" "}
        {maybe(hit.decay60_ms, millis)}, sweeps down by{" "}
        {maybe(hit.sweep_semitones, (s) => s.toFixed(0))} semitones and settles after{" "}
        {maybe(hit.settle_ms, millis)} to {hit.note ?? "no note"}.
      </>
    ) : null;
  if (!answer.data) return null;
  const { before, after, duck } = answer.data;
  return (
    <>
      The bass covers the kick for {millis(before.collision_ms)} of each kick without ducking and
      for {millis(after.collision_ms)} with it. The ducking goes down by {decibels(-duck.depth_db)}{" "}
      and the bass is back after {maybe(duck.returns_ms, millis)}.
    </>
  );
}
