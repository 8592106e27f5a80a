import { scaleLinear, type ScaleLogarithmic } from "d3-scale";
import type { RoomResponse } from "../api/judging";
import type { Range } from "./useZoom";

const LOUDEST_DB = 12;
const FLOOR_DB = -36;

/** How loud a place plays, over the ladder: the fine line is what it gets. */
export function RoomCurve(props: {
  response: RoomResponse;
  y: ScaleLogarithmic<number, number>;
  width: number;
  seen: Range;
}) {
  const { response, y, width, seen } = props;
  const x = scaleLinear([FLOOR_DB, LOUDEST_DB], [0, width]).clamp(true);
  const points = response.hz
    .map((hz, n) => ({ hz, db: response.db[n] ?? FLOOR_DB }))
    .filter(({ hz }) => hz >= seen[0] && hz <= seen[1])
    .map(({ hz, db }) => `${x(db).toFixed(1)},${y(hz).toFixed(1)}`);
  return (
    <g className="room-curve">
      <line x1={x(0)} x2={x(0)} y1={y(seen[0])} y2={y(seen[1])} />
      <polyline points={points.join(" ")} />
      <text x={x(0) - 4} y={y(seen[0]) - 4} textAnchor="end">
        as loud as made
      </text>
    </g>
  );
}
