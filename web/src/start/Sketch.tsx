import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type ListedTrack } from "../api/client";

const [WIDTH, HEIGHT] = [128, 28];
const MIDDLE = HEIGHT / 2;

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
        {data?.lines.map(([at, lasts, velocity], n) => (
          <rect
            key={n}
            className="line"
            x={at * WIDTH}
            y={MIDDLE + 1}
            width={Math.max(1, lasts * WIDTH - 1)}
            height={velocity * (MIDDLE - 2)}
          />
        ))}
        {data?.kick.map(([at, , velocity], n) => (
          <rect
            key={n}
            className="kick"
            x={at * WIDTH}
            y={MIDDLE - velocity * (MIDDLE - 1)}
            width={3}
            height={velocity * (MIDDLE - 1)}
          />
        ))}
        {data?.hits.map(([at, , velocity], n) => (
          <rect
            key={n}
            className="hit"
            x={at * WIDTH}
            y={MIDDLE - 5 * velocity}
            width={1.5}
            height={5 * velocity}
          />
        ))}
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
