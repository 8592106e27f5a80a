const [WIDE, TALL] = [96, 28];
const FLOOR_DB = -48;

/** One bar of a kept version: the kick above the line, the bass below it. */
export function Silhouette({ kick, bass }: { kick: number[]; bass: number[] }) {
  if (kick.length === 0) return <span className="silhouette" />;
  const top = Math.max(...kick, ...bass);
  const half = TALL / 2;
  const side = (levels: number[], sign: number) =>
    [
      `0,${half}`,
      ...levels.map((level, n) => {
        const tall = Math.max(0, 1 - (top - level) / -FLOOR_DB) * half;
        return `${(((n + 0.5) * WIDE) / levels.length).toFixed(1)},${(half - sign * tall).toFixed(1)}`;
      }),
      `${WIDE},${half}`,
    ].join(" ");
  return (
    <svg className="silhouette" viewBox={`0 0 ${WIDE} ${TALL}`} aria-hidden="true">
      <polygon className="kick-area" points={side(kick, 1)} />
      <polygon className="bass-area" points={side(bass, -1)} />
    </svg>
  );
}
