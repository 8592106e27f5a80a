import { gainScale, hzScale, MARGIN, type Scale } from "./frame";

/** Milliseconds along the top, beats and note values along the bottom. */
export function TimeAxes(props: {
  x: Scale;
  from: number;
  span: number;
  height: number;
  beat: number;
}) {
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
        [50, 100, 200, 400].map((hz) => (
          <text key={hz} x={at} y={hzScale(axis, height - MARGIN.bottom)(hz) + 4}>
            {hz === 400 ? "400 Hz" : hz}
          </text>
        ))}
    </g>
  );
}
