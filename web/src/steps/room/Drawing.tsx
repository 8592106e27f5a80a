import { scaleLinear, scaleLog } from "d3-scale";
import type { RoomResponse } from "../../api/judging";

const [WIDE, TALL] = [84, 26];
const FLOOR_DB = -30;

/** How loud a place plays, from 20 Hz on the left to 20 kHz on the right. */
export function Drawing({ response }: { response: RoomResponse }) {
  const x = scaleLog([20, 20000], [0, WIDE]);
  const y = scaleLinear([FLOOR_DB, 15], [TALL, 0]).clamp(true);
  const line = response.hz
    .map((hz, n) => `${n ? "L" : "M"}${x(hz).toFixed(1)},${y(response.db[n] ?? 0).toFixed(1)}`)
    .join("");
  return (
    <svg viewBox={`0 0 ${WIDE} ${TALL}`} aria-hidden="true">
      <line x1={0} x2={WIDE} y1={y(0)} y2={y(0)} className="room-zero" />
      <path d={line} />
    </svg>
  );
}
