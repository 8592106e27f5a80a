import { scaleLinear } from "d3-scale";
import { useState } from "react";
import { Form } from "react-bootstrap";
import type { ReferenceView } from "../../api/judging";

const [WIDE, TALL] = [640, 96];
const LOW_HZ = [24, 360] as const;
const [FLOOR_DB, TOP_DB] = [-30, 12];

type Levels = Record<string, number>;
type Measured = ReferenceView["record"];

/** Low energy at the same loudness: the track as bars, the records as a line, or their range. */
export function ThirdOctaves(props: { track: Measured; records: Measured[] }) {
  const [perNote, setPerNote] = useState(false);
  const of = (one: Measured): Levels => (perNote ? one.notes_db : one.third_octaves_db);
  const [track, records] = [of(props.track), props.records.map(of)];
  const names = perNote
    ? Object.keys(track)
    : Object.keys(track)
        .filter((hz) => Number(hz) > LOW_HZ[0] && Number(hz) < LOW_HZ[1])
        // Whole numbers come first among the names of an object.
        .sort((a, b) => Number(a) - Number(b));
  const step = (WIDE - 40) / Math.max(names.length, 1);
  const x = (n: number) => 40 + (n + 0.5) * step;
  const y = scaleLinear([FLOOR_DB, TOP_DB], [TALL - 14, 2]).clamp(true);
  const ends = names.map((name) => {
    const levels = records.map((one) => one[name] ?? FLOOR_DB);
    return { low: Math.min(...levels), high: Math.max(...levels) };
  });
  const outline = [
    ...ends.map(({ high }, n) => `${x(n).toFixed(1)},${y(high).toFixed(1)}`),
    ...ends.map(({ low }, n) => `${x(n).toFixed(1)},${y(low).toFixed(1)}`).reverse(),
  ].join(" ");
  // Of the notes only the naturals have room for their names.
  const label = (name: string) =>
    !perNote ? Number(name).toFixed(0) : /^[CEG]\d/.test(name) ? name : "";
  return (
    <figure className="room-third-octaves">
      <svg viewBox={`0 0 ${WIDE} ${TALL}`} aria-hidden="true">
        {names.map((name, n) => {
          const top = y(track[name] ?? FLOOR_DB);
          return (
            <g key={name}>
              <rect
                x={x(n) - step * 0.35}
                width={step * 0.7}
                y={top}
                height={Math.max(0, y(FLOOR_DB) - top)}
              />
              <text x={x(n)} y={TALL - 2} textAnchor="middle">
                {label(name)}
              </text>
            </g>
          );
        })}
        <text x={0} y={y(0) + 3}>
          0 dB
        </text>
        <polygon points={outline} />
      </svg>
      <figcaption>
        <Form.Check
          inline
          id="room-per-note"
          label="per note"
          checked={perNote}
          onChange={() => setPerNote(!perNote)}
        />
        {perNote ? "Per note" : "Per third octave, Hz"}, re its own loudness: bars the track, line{" "}
        {records.length > 1 ? "the range of the records" : "the record"}
      </figcaption>
    </figure>
  );
}
