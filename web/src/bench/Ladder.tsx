import { scaleLinear, scaleLog } from "d3-scale";
import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type HitView, type TrackState } from "../api/client";
import type { StepId } from "../steps/steps";
import { useDesk } from "../track/context";
import { hitOf, kickOf } from "../track/parts";
import { useLatest } from "../track/latest";
import { RoomCurve } from "./RoomCurve";
import { Handle } from "./Handle";
import { cents, maybe } from "./scale";
import { limited } from "./beat/frame";
import { useLadderLines } from "./useLadderLines";
import { Spectrum } from "./Spectrum";
import { useSize } from "./useSize";
import { useZoom, type Range } from "./useZoom";
import { ZoomButtons } from "./ZoomButtons";
import "./ladder.css";

const FLOOR_DB = -36;
const PAD = { top: 22, bottom: 20 };
/** The range of a low end, and all that is heard: for what has its weight above the first. */
const LOW: Range = [19.5, 605];
const ALL: Range = [19.5, 20500];
const LEAST_OCTAVES = 0.5;
/** Names closer than this lie over each other. */
/** A letter of a name is so wide. */
const LETTER_PX = 6;
const NAME_PX = 11;

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
  const { facts, hit: view, hitId, answer, there, shown, bar: shownBar } = useDesk();
  const { moment, setMoment, compare } = useDesk();
  const name = hitOf(shown, hitId).name;
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [wideWish, setWide] = useState(false);
  const [live, setLive] = useState(false);
  const high = regions && (view.data?.hit.centroid_hz ?? 0) > LOW[1];
  const inner: Range = [height - PAD.bottom, PAD.top];
  const zoom = useZoom(
    ref,
    "ladder",
    { shown: high ? ALL : LOW, ends: ALL, least: LEAST_OCTAVES, upright: true },
    (pixel, range) => scaleLog(range, inner).invert(pixel),
  );
  const seen = zoom.range ?? (high ? ALL : LOW);
  const wide = regions ? seen[1] > 2 * LOW[1] : wideWish;
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
  const y = scaleLog(seen, inner);
  const isSeen = (hz: number) => hz >= seen[0] && hz <= seen[1];
  // Names of the regions to the left of the bars, roots to their right: neither lies over a bar.
  const spine = 44;
  const [edge, roots] = regions ? [58, 0] : [0, 38];
  const side = Math.max(20, (width - spine - edge - roots) / 2);
  const left = scaleLinear([FLOOR_DB, 0], [0, side - 4]).clamp(true);
  const spineAt = edge + side;
  const step = height > 0 ? Math.abs(y(100) - y(100 * 2 ** (1 / 12))) : 8;
  // Roots first; no name lies over another.
  const names = ladder
    .filter((rung) => rung.in_key)
    .sort((one, other) => Number(other.is_tonic) - Number(one.is_tonic))
    .reduce<number[]>(
      (kept, { hz }) =>
        kept.some((other) => Math.abs(y(hz) - y(other)) < NAME_PX) ? kept : [...kept, hz],
      [],
    );
  const bar = Math.max(3, (wide ? 4 * step : step) - 3);
  const kick =
    (wide ? now?.kick_third_octaves_db : now?.kick_rungs_db) ?? hitLevels(view.data, wide);
  const bass =
    (wide ? now?.bass_third_octaves_db : now?.bass_rungs_db) ??
    (wide ? answer.data?.ducked_third_octaves_db : answer.data?.ducked_rungs_db) ??
    [];
  const bands = wide ? facts.third_octaves_hz : ladder.map(({ hz }) => hz);
  // Where a name stands to the left of what the hit has there.
  const beside = (at: number) =>
    spineAt -
    8 -
    bands.reduce(
      (longest, hz, n) =>
        Math.abs(y(hz) - y(at)) < NAME_PX ? Math.max(longest, left(kick[n] ?? FLOOR_DB)) : longest,
      0,
    );
  // A third-octave band reaches a sixth of an octave to either side of its middle.
  const shared = hitId === kickOf(shown).id && !now ? (answer.data?.after.shared_bands ?? []) : [];
  const hit = view.data?.hit;
  return (
    <figure className="ladder" aria-label="Ladder of notes">
      <div className="ladder-head">
        <span>
          {name.toLowerCase()}{" "}
          {hit?.fundamental_hz && (
            <b>
              {hit.note} {maybe(hit.cents, cents)}
            </b>
          )}
        </span>
        <strong>{facts.key}</strong>
        <span>bass</span>
      </div>
      {!regions && (
        <select
          className="form-select form-select-sm ladder-view"
          aria-label="What the ladder shows"
          value={VIEWS.findIndex(([of, per]) => of === (moment !== null) && per === wide)}
          onChange={(event) => {
            const [ofMoment, perThird] = VIEWS[Number(event.target.value)] ?? [false, false];
            setWide(perThird);
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
      <div className="ladder-tools">
        <Button
          size="sm"
          variant="outline-secondary"
          active={live}
          aria-pressed={live}
          title="The spectrum of what plays, drawn over the ladder"
          onClick={() => setLive(!live)}
        >
          Spectrum
        </Button>
        <ZoomButtons
          of="the ladder"
          near={zoom.range !== null}
          onStep={zoom.step}
          onReset={zoom.reset}
        />
      </div>
      <svg
        ref={ref}
        className={answer.stale || view.stale ? "dim zooms" : "zooms"}
        role="group"
        aria-label="Ladder: plus and minus zoom, arrows scroll, Home shows all"
        tabIndex={0}
        onKeyDown={zoom.keys}
      >
        {width > 0 && (
          <>
            {bands.map((hz, n) => {
              if (!isSeen(hz)) return null;
              const k = left(kick[n] ?? FLOOR_DB);
              const b = left(bass[n] ?? FLOOR_DB);
              const tall = { y: y(hz) - bar / 2, height: bar };
              return [
                { name: "kick-area", x: spineAt - k, width: k },
                { name: "bass-area", x: spineAt + spine, width: b },
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
              if (!isSeen(rung.hz)) return null;
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
                  {names.includes(rung.hz) && (
                    <text
                      x={spineAt + spine / 2}
                      y={at + 4}
                      textAnchor="middle"
                      className={rung.is_tonic ? "rung-name tonic" : "rung-name"}
                    >
                      {rung.note}
                    </text>
                  )}
                  {roots > 0 && rung.root_of_bars.length > 0 && rung.hz > 35 && rung.hz < 140 && (
                    <text x={width - 3} y={at + 4} textAnchor="end" className="root-name">
                      root{" "}
                      {rung.root_of_bars.length === facts.bars ? "" : rung.root_of_bars.join(" ")}
                    </text>
                  )}
                </g>
              );
            })}
            {regions && view.data && <Regions view={view.data} y={y} seen={seen} />}
            {there.data && at === "room" && (
              <RoomCurve response={there.data.response} y={y} width={width} seen={seen} />
            )}
            {live && !compare.blind && <Spectrum y={y} width={width} seen={seen} />}
            {isSeen(facts.club_lowest_hz) && (
              <g>
                <line
                  x1={0}
                  x2={width}
                  y1={y(facts.club_lowest_hz)}
                  y2={y(facts.club_lowest_hz)}
                  className="club-line"
                />
                <text x={3} y={height - 4} className="club-text">
                  below the dotted line: few clubs
                </text>
              </g>
            )}
            {hit?.fundamental_hz && isSeen(hit.fundamental_hz) && (
              <g className="pin" transform={`translate(0,${y(hit.fundamental_hz)})`}>
                <path d={`M${spineAt + 2},0 l-9,-5 v10 z`} />
                <line x1={edge} x2={spineAt - 6} y1={0} y2={0} />
              </g>
            )}
            {(answer.data?.pins ?? [])
              .filter((pin) => pin.name !== name && isSeen(pin.hz))
              .map((pin) => ({ ...pin, x: beside(pin.hz) }))
              .map((pin) => (
                <g key={pin.name} className="pin" transform={`translate(0,${y(pin.hz)})`}>
                  <title>{pin.name.toLowerCase()}</title>
                  <path d={`M${spineAt + 2},0 l-6,-3.5 v7 z`} />
                  {pin.x - edge > LETTER_PX * pin.name.length && (
                    <text x={pin.x} y={4} textAnchor="end" className="pin-name">
                      {pin.name.toLowerCase()}
                    </text>
                  )}
                </g>
              ))}
            {lines.map((one) => {
              const left = one.side === "kick";
              return (
                <g key={one.label}>
                  <line
                    x1={left ? edge : spineAt + spine}
                    x2={left ? spineAt : width}
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
                    onReset={() => one.set(one.usual)}
                  />
                </g>
              );
            })}
          </>
        )}
      </svg>
      <figcaption className="visually-hidden">
        {hit?.fundamental_hz
          ? `Its fundamental is ${hit.fundamental_hz.toFixed(2)} hertz. `
          : "Its fundamental is not measured. "}
        {answer.data && answer.data.after.shared_bands.length > 0
          ? `Kick and bass share the bands at ${answer.data.after.shared_bands.map((hz) => hz.toFixed(0)).join(", ")} hertz.`
          : "Kick and bass share no band."}
      </figcaption>
    </figure>
  );
}

const hitLevels = (view: HitView | null, wide: boolean) =>
  (wide ? view?.third_octaves_db : view?.rungs_db) ?? [];

const REGIONS: [string, number, number][] = [
  ["sub", 20.5, 60],
  ["thump", 60, 120],
  ["boom", 120, 250],
  ["box", 250, 600],
  ["mid", 600, 2000],
  ["snap", 2000, 5000],
  ["air", 5000, 20000],
];

/** The named regions along the edge, each with this hit's level in dB and, below, what is usual for its kind. */
function Regions(props: { view: HitView; y: (hz: number) => number; seen: Range }) {
  const { view, y, seen } = props;
  return REGIONS.filter(([, low, high]) => low >= seen[0] && high <= seen[1]).map(
    ([name, low, high]) => {
      const level = view.hit.bands_db?.[name];
      const usual = view.usual.find((one) => one.band === name);
      const [top, bottom] = [y(high), y(low)];
      const said = level === undefined ? "–" : level.toFixed(0).replace("-", "−");
      const middle = (top + bottom) / 2;
      return (
        <g key={name} className="region">
          <path d={`M6,${top + 2}H2V${bottom - 2}H6`} />
          <text x={10} y={usual ? middle : middle + 4}>
            {name} {said}
          </text>
          {usual && (
            <text x={10} y={middle + 12} className="region-usual">
              {usual.low_db <= -99 ? "under" : `${usual.low_db} to`.replaceAll("-", "−")}{" "}
              {`${usual.high_db}`.replaceAll("-", "−")}
            </text>
          )}
        </g>
      );
    },
  );
}
