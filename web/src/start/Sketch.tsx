import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type ListedTrack } from "../api/client";

const [WIDTH, HEIGHT] = [128, 28];
const MIDDLE = HEIGHT / 2;
/** How wide a mark is at least, and how far it reaches up from the axis, or down. */
const ROWS = [
  ["lines", 1, 2 - MIDDLE],
  ["kick", 3, MIDDLE - 1],
  ["hits", 1.5, 5],
] as const;

/** The pattern of a track: kick above the axis, the other hits on it, lines below; key and tempo beside it. */
export function Sketch({ track }: { track: ListedTrack }) {
  const ref = useRef<HTMLSpanElement>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    // Of a long list only what comes into view is asked for.
    const watch = new IntersectionObserver(
      (rows) => rows.some((row) => row.isIntersecting) && setSeen(true),
    );
    if (ref.current) watch.observe(ref.current);
    return () => watch.disconnect();
  }, []);
  const { data } = useQuery({
    queryKey: ["sketch", track.id, track.changed_at],
    queryFn: () => api.sketch(track.id),
    enabled: seen,
    staleTime: Infinity,
  });
  return (
    <span className="sketch" ref={ref}>
      <svg
        width={WIDTH}
        height={HEIGHT}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Pattern of ${track.name}`}
      >
        {data &&
          ROWS.flatMap(([row, least, reach]) =>
            data[row].map(([at, lasts, velocity], n) => (
              <rect
                key={`${row} ${n}`}
                className={row}
                x={at * WIDTH}
                y={reach < 0 ? MIDDLE + 1 : MIDDLE - velocity * reach}
                width={Math.max(least, lasts * WIDTH - 1)}
                height={velocity * Math.abs(reach)}
              />
            )),
          )}
        <line x2={WIDTH} y1={MIDDLE} y2={MIDDLE} />
      </svg>
      {data && (
        <small>
          {data.key}
          <br />
          {data.bpm.toFixed(1).replace(".0", "")} BPM
        </small>
      )}
    </span>
  );
}
