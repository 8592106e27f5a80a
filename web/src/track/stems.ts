import type { ControlSheet, Stem, TrackState } from "../api/client";
import { defaults, hitsOf, type Edit } from "./edits";
import { voicesOf } from "./lines";

export const MOST_STEMS = 6;

/** A file's name without its ending, short, and no other part's. */
function freeName(state: TrackState, file: string): string {
  const taken = [...hitsOf(state), ...voicesOf(state), ...state.stems].map(({ name }) =>
    name.toLowerCase(),
  );
  const plain =
    file
      .replace(/\.[^.]*$/, "")
      .slice(0, 34)
      .trim() || "stem";
  if (!taken.includes(plain.toLowerCase())) return plain;
  let n = 2;
  while (taken.includes(`${plain} ${n}`.toLowerCase())) n += 1;
  return `${plain} ${n}`;
}

/** A stem more, from a file that has been read. */
export const withStem =
  (sheets: Record<string, ControlSheet>, audio: string, file: string): Edit =>
  (old) => {
    if (old.stems.length >= MOST_STEMS) return old;
    const stem = { ...defaults(sheets["stem"]), name: freeName(old, file), audio, mute: false };
    return { ...old, stems: [...old.stems, stem as unknown as Stem] };
  };

/** One stem changed. */
export const editStem =
  (index: number, changes: Partial<Stem>): Edit =>
  (old) => ({
    ...old,
    stems: old.stems.map((stem, n) => (n === index ? { ...stem, ...changes } : stem)),
  });

/** A stem less; duckings of it stay, and say that it is not there. */
export const withoutStem =
  (index: number): Edit =>
  (old) => ({ ...old, stems: old.stems.filter((_, n) => n !== index) });
