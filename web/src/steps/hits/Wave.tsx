import { scaleLinear } from "d3-scale";
import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Recording, type Wave as WaveData } from "../../api/client";
import { Handle } from "../../bench/Handle";
import { millis, outlineOf } from "../../bench/scale";
import { useSize } from "../../bench/useSize";
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
  from: number;
  to: number;
  columns: number;
}
/** While the outline is on its way there is a second of silence. */
const NOTHING: WaveData = { from_ms: 0, to_ms: 1000, length_ms: 1000, lows: [0, 0], highs: [0, 0] };
const askWave = ({ audio, from, to, columns }: Stretch) => api.wave(audio, from, to, columns);

/** The recording, to be zoomed into, with its takes; the ends of the chosen one are dragged. */
export function Wave({ recording, chosen, onChoose, onMove }: Props) {
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [view, setView] = useState<[number, number]>([0, 60000]);
  const columns = Math.max(64, Math.round(width / 2));
  const wave = useLatest(
    useMemo(
      () => ({ audio: recording.audio, from: view[0], to: view[1], columns }),
      [recording.audio, view, columns],
    ),
    askWave,
  );
  const data = wave.data ?? NOTHING;
  const [from, to] = [data.from_ms, data.to_ms];
  const x = scaleLinear([from, to], [0, width]);
  const middle = height / 2;
  const top = Math.max(0.05, ...data.highs.map(Math.abs), ...data.lows.map(Math.abs));
  const y = (value: number) => middle - (value / top) * (middle - 4);
  const step = width / data.highs.length;
  const zoom = (factor: number, around = (from + to) / 2) => {
    const span = Math.min(data.length_ms, Math.max(20, (to - from) * factor));
    const start = Math.min(
      Math.max(0, around - (around - from) * (span / (to - from))),
      data.length_ms - span,
    );
    setView([start, start + span]);
  };
  const pan = (by: number) => {
    const start = Math.min(Math.max(0, from + by * (to - from)), data.length_ms - (to - from));
    setView([start, start + (to - from)]);
  };
  const take = recording.takes[chosen];
  const perMs = x(1) - x(0);
  const inside = (ms: number) => ms >= from && ms <= to;
  return (
    <div className="wave-box">
      <svg
        ref={ref}
        className={wave.stale ? "wave dim" : "wave"}
        onWheel={(event) =>
          zoom(event.deltaY > 0 ? 1.25 : 0.8, x.invert(event.nativeEvent.offsetX))
        }
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
        <path d={outlineOf(data, step, y)} className="outline" />
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
        {(
          [
            ["←", "Earlier", () => pan(-0.5)],
            ["→", "Later", () => pan(0.5)],
            [
              "+",
              "Zoom in",
              () => zoom(0.5, take && inside(take.start_ms) ? take.start_ms : undefined),
            ],
            ["−", "Zoom out", () => zoom(2)],
            ["all", "All of it", () => setView([0, 60000])],
          ] as const
        ).map(([text, label, act]) => (
          <Button
            key={label}
            size="sm"
            variant="outline-secondary"
            aria-label={label}
            onClick={act}
          >
            {text}
          </Button>
        ))}
      </div>
    </div>
  );
}
