import { scaleLinear } from "d3-scale";
import { useMemo, useState } from "react";
import { api, type Recording, type Wave as WaveData } from "../../api/client";
import { Handle } from "../../bench/Handle";
import { millis, outlineOf } from "../../bench/scale";
import { useSize } from "../../bench/useSize";
import { useZoom, type Range } from "../../bench/useZoom";
import { ZoomButtons } from "../../bench/ZoomButtons";
import { useLatest } from "../../track/latest";

interface Props {
  recording: Recording;
  chosen: number;
  onChoose: (take: number) => void;
  /** A take's end was dragged; it is snapped and measured anew. */
  onMove: (take: number, start_ms: number, end_ms: number) => void;
}

interface Stretch {
  audio: string;
  range: Range;
  columns: number;
}
const LONGEST_MS = 60000;
const LEAST_MS = 20;
/** While the outline is on its way there is a second of silence. */
const NOTHING: WaveData = { from_ms: 0, to_ms: 1000, length_ms: 1000, lows: [0, 0], highs: [0, 0] };
const askWave = ({ audio, range, columns }: Stretch) => api.wave(audio, ...range, columns);

/** The recording, to be zoomed into, with its takes; the ends of the chosen one are dragged. */
export function Wave({ recording, chosen, onChoose, onMove }: Props) {
  const { ref, width, height } = useSize<SVGSVGElement>();
  const take = recording.takes[chosen];
  const [length, setLength] = useState(LONGEST_MS);
  const whole: Range = [0, length];
  const zoom = useZoom(
    ref,
    "takes",
    { shown: whole, ends: whole, least: LEAST_MS, around: take?.start_ms },
    (pixel, [from, to]) => from + (pixel / width) * (to - from),
  );
  const columns = Math.max(64, Math.round(width / 2));
  const wave = useLatest(
    useMemo(
      () => ({ audio: recording.audio, range: zoom.range ?? [0, LONGEST_MS], columns }),
      [recording.audio, zoom.range, columns],
    ),
    askWave,
  );
  const data = wave.data ?? NOTHING;
  if (wave.data && wave.data.length_ms !== length) setLength(wave.data.length_ms);
  const [from, to] = zoom.range ?? [0, data.length_ms];
  const x = scaleLinear([from, to], [0, width]);
  const middle = height / 2;
  const top = Math.max(0.05, ...data.highs.map(Math.abs), ...data.lows.map(Math.abs));
  const y = (value: number) => middle - (value / top) * (middle - 4);
  const step = (x(data.to_ms) - x(data.from_ms)) / data.highs.length;
  const perMs = x(1) - x(0);
  const inside = (ms: number) => ms >= from && ms <= to;
  return (
    <div className="wave-box">
      <svg
        ref={ref}
        className={wave.stale ? "wave dim zooms" : "wave zooms"}
        role="group"
        aria-label="Recording: plus and minus zoom, arrows scroll, Home shows all"
        tabIndex={0}
        onKeyDown={zoom.keys}
      >
        {recording.takes.map((one, n) => (
          <g
            key={n}
            onClick={() => onChoose(n)}
            className={`take take-${one.verdict}${n === chosen ? " at-hand" : ""}`}
          >
            <rect
              x={x(one.start_ms)}
              width={Math.max(1, x(one.end_ms) - x(one.start_ms))}
              y={0}
              height={height}
            />
            <line x1={x(one.start_ms)} x2={x(one.start_ms)} y1={0} y2={height} />
            {inside(one.start_ms) && (
              <text x={x(one.start_ms) + 3} y={11}>
                {n + 1}
              </text>
            )}
          </g>
        ))}
        <path
          d={outlineOf(data, step, y)}
          transform={`translate(${x(data.from_ms)})`}
          className="outline"
        />
        {take && inside(take.start_ms) && (
          <Handle
            x={x(take.start_ms)}
            y={height - 10}
            label={`Start of take ${chosen + 1}`}
            value={take.start_ms}
            low={0}
            high={take.end_ms}
            text={millis(take.start_ms, 1)}
            onDrag={(dx) => onMove(chosen, take.start_ms + dx / perMs, take.end_ms)}
            onNudge={(right) => onMove(chosen, take.start_ms + right, take.end_ms)}
          />
        )}
        {take && inside(take.end_ms) && (
          <Handle
            x={x(take.end_ms)}
            y={10}
            label={`End of take ${chosen + 1}`}
            value={take.end_ms}
            low={take.start_ms}
            high={data.length_ms}
            text={millis(take.end_ms, 1)}
            onDrag={(dx) => onMove(chosen, take.start_ms, take.end_ms + dx / perMs)}
            onNudge={(right) => onMove(chosen, take.start_ms, take.end_ms + right)}
          />
        )}
      </svg>
      <div className="wave-buttons">
        <span>
          {millis(from)} to {millis(to)}
        </span>
        <span className="spring" />
        <ZoomButtons
          of="the recording"
          near={zoom.range !== null}
          onStep={zoom.step}
          onReset={zoom.reset}
        />
      </div>
    </div>
  );
}
