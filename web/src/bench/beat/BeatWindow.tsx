import { scaleLinear } from "d3-scale";
import { useMemo, useState } from "react";
import {
  api,
  type AnswerView,
  type Brief,
  type Hit,
  type HitView,
  type LoopCloseup,
  type TrackState,
} from "../../api/client";
import type { Player } from "../../audio/player";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";
import { hitOf, mainDucking } from "../../track/parts";
import { Chooser } from "../Chooser";
import { decibels, maybe, millis } from "../scale";
import { useSize } from "../useSize";
import { useZoom, type Range } from "../useZoom";
import { ZoomButtons } from "../ZoomButtons";
import { LevelAxis, TimeAxes } from "./Axes";
import { CopyNumbers } from "./CopyNumbers";
import { Both, HitAlone, type Levels } from "./Curves";
import { FLOOR_DB, MARGIN } from "./frame";
import { DuckHandles, MomentHandle, TailHandle } from "./Handles";
import { Legend } from "./Legend";
import { Playhead } from "./Playhead";
import "./beat.css";

interface Props {
  alone: boolean;
  player: Player;
}

/** From here on there is room for the wave itself; it comes no nearer than a cycle of 250 Hz. */
const WAVE_MS = 250;
const LEAST_MS = 4;

const askLoop = ({ state, near }: { state: TrackState; near: Range }) =>
  api.closeup(state, ...near);
const askWave = ({ brief, hit, near }: { brief: Brief; hit: Hit; near: Range }) =>
  api.closeupHit(brief, hit, ...near);

const ofBar = ({ bar }: AnswerView): Levels => ({
  ...bar,
  from: 0,
  to: bar.kick_db.length,
  waves: null,
});
const ofStretch = (near: LoopCloseup): Levels => ({
  ...near,
  from: near.from_ms,
  to: near.to_ms,
  waves: near.to_ms - near.from_ms <= WAVE_MS ? near : null,
});

/** A cycle to the whole loop: kick above the axis, bass below, the ducking across both. */
export function BeatWindow({ alone, player }: Props) {
  const { facts, hit, hitId, answer, bar, setBar, moment, shown, trial } = useDesk();
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [part, setPart] = useState<"bar" | number>("bar");
  const resting = alone
    ? aloneSpan(hit.data, facts.beat_ms)
    : part === "bar"
      ? facts.bar_ms
      : facts.beat_ms;
  const within = alone || part === "bar" ? 0 : (part - 1) * facts.beat_ms;
  const begins = alone ? 0 : bar * facts.bar_ms;
  const inner: Range = [MARGIN.left, Math.max(width - MARGIN.right, 60)];
  const zoom = useZoom(
    ref,
    alone ? "near" : "zoom",
    {
      shown: [begins + within, begins + within + resting],
      ends: [0, alone ? resting : facts.bars * facts.bar_ms],
      least: LEAST_MS,
    },
    (pixel, range) => scaleLinear(range, inner).invert(pixel),
  );
  const near = zoom.range;
  // What is chosen by bar and beat is counted from its bar, what is zoomed from the start of the loop.
  const origin = near ? 0 : begins;
  const from = near ? near[0] : within;
  const span = near ? near[1] - near[0] : resting;
  const stretch = useLatest(
    useMemo(() => (near && !alone ? { state: shown, near } : null), [alone, near, shown]),
    askLoop,
  );
  const shownHit = hitOf(shown, hitId);
  const waved = near !== null && alone && span <= WAVE_MS && hit.data !== null;
  const wave = useLatest(
    useMemo(
      () =>
        waved && near && near[0] < (hit.data?.hit.length_ms ?? 0)
          ? { brief: shown.brief, hit: shownHit, near }
          : null,
      [hit.data, near, shown.brief, shownHit, waved],
    ),
    askWave,
  );
  const levels = near ? stretch.data && ofStretch(stretch.data) : answer.data && ofBar(answer.data);
  const x = scaleLinear([from, from + span], inner);
  const axis = MARGIN.top + (height - MARGIN.top - MARGIN.bottom) / 2;
  const up = scaleLinear([FLOOR_DB, 0], [axis, MARGIN.top]).clamp(true);
  const down = scaleLinear([FLOOR_DB, 0], [axis, height - MARGIN.bottom]).clamp(true);
  const ready = width > 0 && (alone ? hit.data : answer.data);
  const dim = alone ? hit.stale : answer.stale;
  return (
    <figure className="beat" aria-label="Beat window">
      <div className="beat-head">
        <strong>{alone ? shownHit.name : "20–150 Hz"}</strong>
        <Legend alone={alone} choked={(answer.data?.bar.cuts.length ?? 0) > 0} />
        <span className="spring" />
        {!alone && (
          <>
            {facts.bars > 1 && (
              <Chooser
                shown="bar"
                name="bar"
                label="Bar shown"
                options={Array.from({ length: facts.bars }, (_, n) => [n, `${n + 1}`])}
                value={near ? -1 : bar}
                onChoose={(chosen) => {
                  zoom.reset();
                  setBar(chosen);
                }}
              />
            )}
            <Chooser
              shown="beat"
              name="part"
              label="Part of the bar shown"
              options={[
                ...[1, 2, 3, 4].map((n): [number | "bar" | "", string] => [n, `${n}`]),
                ["bar", "whole"],
              ]}
              value={near ? "" : part}
              onChoose={(chosen) => {
                zoom.reset();
                setPart(chosen === "" ? "bar" : chosen);
              }}
            />
          </>
        )}
        {alone && <CopyNumbers />}
        <ZoomButtons
          of="the beat window"
          near={near !== null}
          onStep={zoom.step}
          onReset={zoom.reset}
        />
      </div>
      <svg
        ref={ref}
        className={dim ? "dim zooms" : "zooms"}
        aria-hidden={ready ? undefined : true}
        role="group"
        aria-label="Beat window: plus and minus zoom, arrows scroll, Home shows all"
        tabIndex={0}
        onKeyDown={zoom.keys}
      >
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
        <TimeAxes
          x={x}
          from={from}
          span={span}
          height={height}
          beat={facts.beat_ms}
          bars={near !== null && !alone}
        />
        <g clipPath="url(#beat-clip)">
          {ready && alone && hit.data && (
            <HitAlone
              view={hit.data}
              x={x}
              up={up}
              axis={axis}
              bottom={height - MARGIN.bottom}
              near={waved ? wave.data : null}
            />
          )}
          {ready && !alone && levels && (
            <Both levels={levels} x={x} up={up} down={down} axis={axis} height={height} />
          )}
        </g>
        <line x1={MARGIN.left} x2={width - MARGIN.right} y1={axis} y2={axis} className="axis" />
        {ready && alone && !trial && <TailHandle x={x} y={axis} />}
        {ready && !alone && mainDucking(shown).on && !trial && (
          <DuckHandles x={x} from={from} height={height} origin={origin} />
        )}
        {ready && !alone && moment !== null && (
          <MomentHandle x={x} height={height} origin={origin} />
        )}
        <LevelAxis alone={alone} width={width} up={up} axis={axis} height={height} />
        <Playhead
          player={player}
          x={x}
          begins={(at) =>
            alone
              ? ((answer.data?.kick_times_ms ?? []).findLast((kick) => kick <= at) ?? 0)
              : origin
          }
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

function aloneSpan(view: HitView | null, beat: number): number {
  const length = view?.hit.length_ms ?? beat;
  return (
    [1, 2, 4].map((beats) => beats * beat).find((span) => span >= length * 1.02) ??
    Math.ceil(length / beat) * beat
  );
}

/** The numbers that the picture shows, for those who do not see it. */
function Described({ alone }: { alone: boolean }) {
  const { hit: view, hitId, shown, answer } = useDesk();
  const hit = view.data?.hit;
  if (alone)
    return hit ? (
      <>
        {hitOf(shown, hitId).name} peaks at {decibels(hit.peak_dbfs)}, is 60 dB down after{" "}
        {maybe(hit.decay60_ms, millis)}, sweeps down by{" "}
        {maybe(hit.sweep_semitones, (s) => s.toFixed(0))} semitones and settles after{" "}
        {maybe(hit.settle_ms, millis)} to {hit.note ?? "no note"}.
      </>
    ) : null;
  if (!answer.data) return null;
  const { before, after, duck } = answer.data;
  return (
    <>
      The bass covers the kick for {maybe(before.collision_ms, millis)} of each kick without ducking
      and for {maybe(after.collision_ms, millis)} with it. The ducking goes down by{" "}
      {decibels(-duck.depth_db)} and the bass is back after {maybe(duck.returns_ms, millis)}.
    </>
  );
}
