import type { Meeting } from "../../api/client";
import { useDesk } from "../../track/context";

const WHO = ["nobody", "kick", "bass", "both"] as const;
const CELL = 10;
const ROW = 16;
const LEFT = 52;

/** One bar in time and frequency: who is heard where; told by pattern as well as by colour. */
export function MeetingMap({ meeting, dim }: { meeting: Meeting; dim: boolean }) {
  const { facts } = useDesk();
  const { bands_hz, cells, column_ms } = meeting;
  const rows = [...cells].reverse();
  const columns = cells[0]?.length ?? 0;
  const width = LEFT + columns * CELL;
  const height = rows.length * ROW + 18;
  const beats = Math.round((columns * column_ms) / facts.beat_ms);
  return (
    <figure className={dim ? "meeting dim" : "meeting"}>
      <figcaption>
        <Legend /> In {Math.round(100 * meeting.met_share)} % of where the kick is heard, the bass
        is as loud.
      </figcaption>
      <svg viewBox={`0 0 ${width} ${height}`} role="img" aria-label="Kick and bass over the bar">
        <defs>
          <pattern id="met" width="5" height="5" patternUnits="userSpaceOnUse">
            <path d="M-1,1 l2,-2 M0,5 l5,-5 M4,6 l2,-2" className="hatch-line" />
          </pattern>
          <pattern id="dots" width="5" height="4" patternUnits="userSpaceOnUse">
            <rect width="5" height="4" className="bass-dim" />
            <circle cx="2.5" cy="2" r="1.1" className="bass-dot" />
          </pattern>
        </defs>
        {rows.map((row, n) => {
          const hz = bands_hz[bands_hz.length - 1 - n] ?? 0;
          return (
            <g key={hz} transform={`translate(0 ${n * ROW})`}>
              <text x={LEFT - 6} y={ROW - 4} textAnchor="end">
                {hz.toFixed(hz < 100 ? 1 : 0)}
              </text>
              {runs(row).map(({ who, from, count }) => (
                <rect
                  key={from}
                  x={LEFT + from * CELL}
                  width={count * CELL}
                  height={ROW - 2}
                  className={`met-${WHO[who]}`}
                />
              ))}
            </g>
          );
        })}
        {Array.from({ length: beats }, (_, n) => (
          <g key={n}>
            <line
              x1={LEFT + (n * columns * CELL) / beats}
              x2={LEFT + (n * columns * CELL) / beats}
              y1={0}
              y2={rows.length * ROW}
              className="met-beat"
            />
            <text x={LEFT + (n * columns * CELL) / beats + 2} y={height - 4}>
              beat {n + 1}
            </text>
          </g>
        ))}
      </svg>
    </figure>
  );
}

/** Neighbours that show the same, as one. */
function runs(row: number[]): { who: number; from: number; count: number }[] {
  const found: { who: number; from: number; count: number }[] = [];
  row.forEach((who, at) => {
    const last = found.at(-1);
    if (last?.who === who) last.count += 1;
    else found.push({ who, from: at, count: 1 });
  });
  return found.filter(({ who }) => who > 0);
}

function Legend() {
  return (
    <span className="legend">
      {WHO.slice(1).map((who) => (
        <span key={who}>
          <svg width="14" height="12" aria-hidden>
            <rect width="14" height="10" y="1" className={`met-${who}`} />
          </svg>
          {who === "both" ? "both, within 6 dB" : who}
        </span>
      ))}
    </span>
  );
}
