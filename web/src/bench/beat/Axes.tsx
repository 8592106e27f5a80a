import { ends, gainScale, hzScale, MARGIN, type Scale } from "./frame";

const MOST_LINES = 33;

/** Milliseconds along the top; beats and note values along the bottom, with their bar where several may be seen. */
export function TimeAxes(props: {
  x: Scale;
  from: number;
  span: number;
  height: number;
  beat: number;
  bars: boolean;
}) {
  const { x, from, span, height, beat, bars } = props;
  // Sixteenths, beats where there would be too many, or bars.
  const per = [4, 1, 1 / 4].find((n) => (span / beat) * n <= MOST_LINES) ?? 1 / 4;
  const unit = beat / per;
  const first = Math.ceil(from / unit - 1e-6);
  const count = Math.floor((from + span) / unit + 1e-6) - first;
  const names = ["", "1/16", "1/8", "1/8."];
  const nameOf = (n: number): string => {
    const beats = Math.round(n / per);
    if (per === 4 && n % 4 !== 0) return count <= 8 ? (names[n % 4] as string) : "";
    if (!bars) return `beat ${beats + 1}`;
    return per < 1 ? `bar ${beats / 4 + 1}` : `${Math.floor(beats / 4) + 1}.${(beats % 4) + 1}`;
  };
  const ticks = x.ticks(8);
  const digits = Math.max(0, -Math.floor(Math.log10((ticks[1] ?? 1) - (ticks[0] ?? 0)) + 1e-9));
  return (
    <g className="axes">
      {ticks.map((ms) => (
        <text key={ms} x={x(ms)} y={12} textAnchor={ms === from ? "start" : "middle"}>
          {ms === ticks[0] ? `${ms.toFixed(digits)} ms` : ms.toFixed(digits)}
        </text>
      ))}
      {Array.from({ length: count + 1 }, (_, n) => {
        const at = x((first + n) * unit);
        const strong = per < 4 || (first + n) % 4 === 0;
        const name = nameOf(first + n);
        return (
          <g key={n}>
            <line
              x1={at}
              x2={at}
              y1={16}
              y2={height - 16}
              className={strong ? "beat-line" : "grid"}
            />
            {name && at < ends(x)[1] - 12 && (
              <text
                x={at}
                y={height - 4}
                textAnchor={n === 0 ? "start" : "middle"}
                className={strong ? "strong" : ""}
              >
                {name}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** Level and frequency of the kick alone, or the gain of the ducking. */
export function LevelAxis(props: {
  alone: boolean;
  width: number;
  up: Scale;
  axis: number;
  height: number;
}) {
  const { width, up, axis, height, alone } = props;
  const at = width - MARGIN.right + 4;
  const level = alone ? up : gainScale(height);
  return (
    <g className="axes">
      {[0, -12, -24, -36].map((db) => (
        <text key={db} x={at} y={level(db) + 4} className={alone ? "" : "duck-text"}>
          {db === 0 ? "0 dB" : `−${-db}`}
        </text>
      ))}
      {alone &&
        (height > 220 ? [50, 100, 200, 400] : [50, 400]).map((hz) => (
          <text key={hz} x={at} y={hzScale(axis, height - MARGIN.bottom)(hz) + 4}>
            {hz === 50 ? "50 Hz" : hz}
          </text>
        ))}
    </g>
  );
}
