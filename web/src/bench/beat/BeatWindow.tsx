import { scaleLinear } from "d3-scale";
import { useState } from "react";
import type { HitView } from "../../api/client";
import type { Player } from "../../audio/player";
import { useDesk } from "../../track/context";
import { hitOf, mainDucking } from "../../track/parts";
import { Chooser } from "../Chooser";
import { decibels, maybe, millis } from "../scale";
import { useSize } from "../useSize";
import { LevelAxis, TimeAxes } from "./Axes";
import { Both, HitAlone } from "./Curves";
import { FLOOR_DB, MARGIN } from "./frame";
import { DuckHandles, MomentHandle, TailHandle } from "./Handles";
import { Legend } from "./Legend";
import { Playhead } from "./Playhead";
import "./beat.css";

interface Props {
  alone: boolean;
  player: Player;
}

/** One beat to one bar of time: kick above the axis, bass below, the ducking across both. */
export function BeatWindow({ alone, player }: Props) {
  const { facts, hit, hitId, answer, bar, setBar, moment, shown, trial } = useDesk();
  const name = hitOf(shown, hitId).name;
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [part, setPart] = useState<"bar" | number>("bar");
  const span = alone
    ? aloneSpan(hit.data, facts.beat_ms)
    : part === "bar"
      ? facts.bar_ms
      : facts.beat_ms;
  const from = alone || part === "bar" ? 0 : (part - 1) * facts.beat_ms;
  const x = scaleLinear([from, from + span], [MARGIN.left, Math.max(width - MARGIN.right, 60)]);
  const axis = MARGIN.top + (height - MARGIN.top - MARGIN.bottom) / 2;
  const up = scaleLinear([FLOOR_DB, 0], [axis, MARGIN.top]).clamp(true);
  const down = scaleLinear([FLOOR_DB, 0], [axis, height - MARGIN.bottom]).clamp(true);
  const ready = width > 0 && (alone ? hit.data : answer.data);
  const dim = alone ? hit.stale : answer.stale;
  return (
    <figure className="beat" aria-label="Beat window">
      <div className="beat-head">
        <strong>{alone ? name : "20–150 Hz"}</strong>
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
          {ready && alone && hit.data && (
            <HitAlone view={hit.data} x={x} up={up} axis={axis} bottom={height - MARGIN.bottom} />
          )}
          {ready && !alone && <Both x={x} up={up} down={down} axis={axis} height={height} />}
        </g>
        <line x1={MARGIN.left} x2={width - MARGIN.right} y1={axis} y2={axis} className="axis" />
        {ready && alone && !trial && <TailHandle x={x} y={axis} />}
        {ready && !alone && mainDucking(shown).on && !trial && (
          <DuckHandles x={x} from={from} height={height} />
        )}
        {ready && !alone && moment !== null && <MomentHandle x={x} height={height} />}
        <LevelAxis alone={alone} width={width} up={up} axis={axis} height={height} />
        <Playhead
          player={player}
          x={x}
          begins={(at) =>
            alone
              ? ((answer.data?.kick_times_ms ?? []).findLast((kick) => kick <= at) ?? 0)
              : bar * facts.bar_ms
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
