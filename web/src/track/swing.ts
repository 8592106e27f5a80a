export type Swung = { fit?: string; swing?: string; own_bpm?: number; swing_percent?: number };

/** Changes of what has a pattern: who sets a swing wants it to be heard. */
export const swingChanges = <C extends Swung>(changes: C): C & Swung =>
  changes.swing_percent === undefined ? changes : { ...changes, swing: "its own" };

/** Changes of a file that runs as a loop: it swings by its slices alone, so the one brings the other. */
export function loopChanges<C extends Swung>(file: Swung, given: C, bpm: number): C & Swung {
  const changes = swingChanges(given);
  if (changes.fit !== undefined && changes.fit !== "by slices")
    return { ...changes, swing: "as it is" };
  if (changes.swing !== undefined && changes.swing !== "as it is" && file.fit !== "by slices")
    return { ...changes, fit: "by slices", ...(file.fit === "as it is" && { own_bpm: bpm }) };
  return changes;
}
