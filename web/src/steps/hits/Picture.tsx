import { area } from "d3-shape";
import type { HitPicture } from "../../api/client";

const FLOOR_DB = -54;

/** A hit's envelope, small: time to the right over `span_ms`, level upwards. */
export function Picture({ picture, span }: { picture: HitPicture; span: number }) {
  const width = 120;
  const height = 30;
  const shape = area<number>()
    .x((_, n) => (n * picture.step_ms * width) / span)
    .y0(height)
    .y1((db) => height * Math.min(1, Math.max(0, db / FLOOR_DB)))(picture.envelope_db);
  return (
    <svg
      className="small-picture"
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio="none"
      aria-hidden
    >
      <path d={shape ?? ""} className="kick-area" />
    </svg>
  );
}

export const lengthOf = (picture: HitPicture) => picture.envelope_db.length * picture.step_ms;
