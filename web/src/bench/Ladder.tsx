import { scaleLinear, scaleLog } from "d3-scale";
import { useMemo, useState } from "react";
import { api, type HitView, type TrackState } from "../api/client";
import type { StepId } from "../steps/steps";
import { useDesk } from "../track/context";
import { hitOf, kickOf } from "../track/parts";
import { useLatest } from "../track/latest";
import { Handle } from "./Handle";
import { cents, maybe } from "./scale";
import { limited } from "./beat/frame";
import { useLadderLines } from "./useLadderLines";
import { useSize } from "./useSize";
import "./ladder.css";

const FLOOR_DB = -36;
const PAD = { top: 22, bottom: 10 };

interface Asked {
  state: TrackState;
  bar: number;
  at_ms: number;
}
/** Of a moment or all of it; per third octave or per note. */
const VIEWS: [boolean, boolean][] = [
  [false, false],
  [false, true],
  [true, false],
  [true, true],
];
const askMoment = ({ state, bar, at_ms }: Asked) => api.moment(state, bar, at_ms);

/** Frequency upwards, a rung for every note: kick to the left, bass to the right. */
export function Ladder({ regions, step: at }: { regions: boolean; step: StepId }) {
  const { facts, hit: view, hitId, answer, shown, bar: shownBar, moment, setMoment } = useDesk();
  const name = hitOf(shown, hitId).name;
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [thirdsWish, setThirds] = useState(false);
  const thirds = thirdsWish && !regions;
  const lines = useLadderLines(at);
  const asked = useLatest(
    useMemo(
      () => (moment === null || regions ? null : { state: shown, bar: shownBar, at_ms: moment }),
      [moment, regions, shown, shownBar],
    ),
    askMoment,
  );
  const now = moment === null || regions ? null : asked.data;
  const ladder = facts.ladder;
  const lowest = ladder[0];
  const highest = ladder.at(-1);
  if (!lowest || !highest) return null;
  const y = scaleLog([lowest.hz * 0.97, highest.hz * 1.03], [height - PAD.bottom, PAD.top]);
  const spine = 44;
  const side = Math.max(20, (width - spine) / 2);
  const left = scaleLinear([FLOOR_DB, 0], [0, side - 4]).clamp(true);
  const step = height > 0 ? Math.abs(y(lowest.hz) - y(lowest.hz * 2 ** (1 / 12))) : 8;
  const bar = Math.max(3, (thirds ? 4 * step : step) - 3);
  const kick = (thirds ? now?.kick_thirds_db : now?.kick_rungs_db) ?? hitLevels(view.data, thirds);
  const bass =
    (thirds ? now?.bass_thirds_db : now?.bass_rungs_db) ??
    (thirds ? answer.data?.ducked_thirds_db : answer.data?.ducked_rungs_db) ??
    [];
  const bands = thirds ? facts.thirds_hz : ladder.map(({ hz }) => hz);
  // A third-octave band reaches a sixth of an octave to either side of its middle.
  const shared = hitId === kickOf(shown).id && !now ? (answer.data?.after.shared_bands ?? []) : [];
  const hit = view.data?.hit;
  return (
    <figure className="ladder" aria-label="Ladder of notes">
      <div className="ladder-head">
        <span>{name.toLowerCase()}</span>
        <strong>{facts.key}</strong>
        <span>bass</span>
      </div>
      {!regions && (
        <select
          className="form-select form-select-sm ladder-view"
          aria-label="What the ladder shows"
          value={VIEWS.findIndex(([of, per]) => of === (moment !== null) && per === thirds)}
          onChange={(event) => {
            const [ofMoment, perThird] = VIEWS[Number(event.target.value)] ?? [false, false];
            setThirds(perThird);
            setMoment(ofMoment ? (moment ?? facts.beat_ms / 4) : null);
          }}
        >
          {VIEWS.map(([ofMoment, perThird], n) => (
            <option key={n} value={n}>
              {ofMoment ? "a moment" : "the whole loop"}, per {perThird ? "third octave" : "note"}
            </option>
          ))}
        </select>
      )}
      <svg ref={ref} className={answer.stale || view.stale ? "dim" : ""}>
        {width > 0 && (
          <>
            {bands.map((hz, n) => {
              const k = left(kick[n] ?? FLOOR_DB);
              const b = left(bass[n] ?? FLOOR_DB);
              const tall = { y: y(hz) - bar / 2, height: bar };
              return [
                { name: "kick-area", x: side - k, width: k },
                { name: "bass-area", x: width - side, width: b },
              ].map(({ name, ...across }) => (
                <g key={`${name} ${hz}`}>
                  <rect className={name} {...across} {...tall} />
                  {shared.some((one) => Math.abs(Math.log2(hz / one)) <= 1 / 6) && (
                    <rect className="clash" fill="url(#hatch)" {...across} {...tall} />
                  )}
                </g>
              ));
            })}
            {ladder.map((rung) => {
              const at = y(rung.hz);
              return (
                <g key={rung.midi}>
                  <line
                    x1={0}
                    x2={width}
                    y1={at}
                    y2={at}
                    className={rung.is_tonic ? "rung tonic" : rung.in_key ? "rung in-key" : "rung"}
                  />
                  {rung.in_key && (
                    <text
                      x={width / 2}
                      y={at + 4}
                      textAnchor="middle"
                      className={rung.is_tonic ? "rung-name tonic" : "rung-name"}
                    >
                      {rung.note}
                    </text>
                  )}
                  {rung.root_of_bars.length > 0 && rung.hz > 35 && rung.hz < 140 && (
                    <text x={width - 3} y={at + 4} textAnchor="end" className="root-name">
                      root{" "}
                      {rung.root_of_bars.length === facts.bars ? "" : rung.root_of_bars.join(" ")}
                    </text>
                  )}
                </g>
              );
            })}
            {regions && view.data && <Regions view={view.data} y={y} />}
            <g>
              <line
                x1={0}
                x2={width}
                y1={y(facts.club_lowest_hz)}
                y2={y(facts.club_lowest_hz)}
                className="club-line"
              />
              <text x={3} y={y(facts.club_lowest_hz) + 12} className="club-text">
                few clubs play this
              </text>
            </g>
            {hit?.fundamental_hz && hit.fundamental_hz < highest.hz && (
              <g className="pin" transform={`translate(0,${y(hit.fundamental_hz)})`}>
                <path d={`M${side + 2},0 l-9,-5 v10 z`} />
                <line x1={4} x2={side - 6} y1={0} y2={0} />
                <text x={regions ? 18 : 3} y={-5}>
                  {hit.note} {maybe(hit.cents, cents)}
                </text>
              </g>
            )}
            {(answer.data?.pins ?? [])
              .filter((pin) => pin.name !== name)
              .map((pin) => (
                <g key={pin.name} className="pin" transform={`translate(0,${y(pin.hz)})`}>
                  <path d={`M${side + 2},0 l-6,-3.5 v7 z`} />
                  <text x={side - 8} y={4} textAnchor="end" className="pin-name">
                    {pin.name.toLowerCase()}
                  </text>
                </g>
              ))}
            {lines.map((one) => {
              const left = one.side === "kick";
              return (
                <g key={one.label}>
                  <line
                    x1={left ? 0 : width - side}
                    x2={left ? side : width}
                    y1={y(one.hz)}
                    y2={y(one.hz)}
                    className="cut-line"
                  />
                  <Handle
                    x={left ? 18 : width - 18}
                    y={limited(y(one.hz), PAD.top, height - PAD.bottom)}
                    label={one.label}
                    value={one.hz}
                    low={one.low}
                    high={one.high}
                    text={`${one.hz.toFixed(0)} Hz`}
                    onDrag={(_, dy) => one.set(y.invert(y(one.hz) + dy))}
                    onNudge={(_, up) => one.set(one.hz + up)}
                  />
                </g>
              );
            })}
          </>
        )}
      </svg>
      <figcaption className="visually-hidden">
        {hit?.fundamental_hz
          ? `The fundamental of ${name.toLowerCase()} is ${hit.fundamental_hz.toFixed(2)} hertz, ${hit.note} ${maybe(hit.cents, cents)}. `
          : `There is no measured fundamental of ${name.toLowerCase()}. `}
        {answer.data && answer.data.after.shared_bands.length > 0
          ? `Kick and bass share the bands at ${answer.data.after.shared_bands.map((hz) => hz.toFixed(0)).join(", ")} hertz.`
          : "Kick and bass share no band."}
      </figcaption>
    </figure>
  );
}

const hitLevels = (view: HitView | null, thirds: boolean) =>
  (thirds ? view?.thirds_db : view?.rungs_db) ?? [];

const REGIONS: [string, number, number][] = [
  ["sub", 20.5, 60],
  ["thump", 60, 120],
  ["boom", 120, 250],
  ["box", 250, 600],
];

/** The named regions along the edge, each with this hit's level and what is usual for its kind. */
function Regions({ view, y }: { view: HitView; y: (hz: number) => number }) {
  return REGIONS.map(([name, low, high]) => {
    const level = view.hit.bands_db?.[name];
    const usual = view.usual.find((one) => one.band === name);
    const [top, bottom] = [y(Math.min(high, 590)), y(low)];
    const said = level === undefined ? "–" : level.toFixed(0).replace("-", "−");
    const range = usual
      ? `, usual ${usual.low_db <= -99 ? "under" : `${usual.low_db} to`} ${usual.high_db}`.replaceAll(
          "-",
          "−",
        )
      : "";
    return (
      <g key={name} className="region">
        <path d={`M6,${top + 2}H2V${bottom - 2}H6`} />
        <text transform={`translate(13,${(top + bottom) / 2}) rotate(-90)`} textAnchor="middle">
          {name} {said}
          {range}
        </text>
      </g>
    );
  });
}
