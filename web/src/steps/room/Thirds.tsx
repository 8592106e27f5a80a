import { scaleLinear, scaleLog } from "d3-scale";

const [WIDE, TALL] = [640, 96];
const LOW_HZ = [24, 360] as const;
const [FLOOR_DB, TOP_DB] = [-30, 12];

/** Energy per third octave at the same loudness: the track as bars, the records as a line, or their range. */
export function Thirds(props: {
  track: Record<string, number>;
  records: Record<string, number>[];
}) {
  const { track, records } = props;
  const bands = Object.keys(track)
    .map(Number)
    .filter((hz) => hz > LOW_HZ[0] && hz < LOW_HZ[1])
    // Whole numbers come first among the names of an object.
    .sort((a, b) => a - b);
  const x = scaleLog([...LOW_HZ], [30, WIDE]);
  const y = scaleLinear([FLOOR_DB, TOP_DB], [TALL - 14, 2]).clamp(true);
  const of = (one: Record<string, number>, hz: number) =>
    Object.entries(one).find(([name]) => Number(name) === hz)?.[1] ?? FLOOR_DB;
  const ends = bands.map((hz) => {
    const levels = records.map((one) => of(one, hz));
    return { hz, low: Math.min(...levels), high: Math.max(...levels) };
  });
  const outline = [
    ...ends.map(({ hz, high }) => `${x(hz).toFixed(1)},${y(high).toFixed(1)}`),
    ...[...ends].reverse().map(({ hz, low }) => `${x(hz).toFixed(1)},${y(low).toFixed(1)}`),
  ].join(" ");
  const step = bands.length > 1 ? x(bands[1] ?? 1) - x(bands[0] ?? 1) : 10;
  return (
    <figure className="room-thirds">
      <svg viewBox={`0 0 ${WIDE} ${TALL}`} aria-hidden="true">
        {bands.map((hz) => (
          <g key={hz}>
            <rect
              x={x(hz) - step * 0.35}
              width={step * 0.7}
              y={y(of(track, hz))}
              height={Math.max(0, y(FLOOR_DB) - y(of(track, hz)))}
            />
            <text x={x(hz)} y={TALL - 2} textAnchor="middle">
              {hz.toFixed(0)}
            </text>
          </g>
        ))}
        <text x={0} y={y(0) + 3}>
          0 dB
        </text>
        <polygon points={outline} />
      </svg>
      <figcaption>
        Per third octave, Hz, re its own loudness: bars the track, line{" "}
        {records.length > 1 ? "the range of the records" : "the record"}
      </figcaption>
    </figure>
  );
}
