import type { BassRecipe, ControlSheet, KickRecipe, TrackState } from "../api/client";

type Edit = (old: TrackState) => TrackState;

/** A made kick with some of its fields changed; an imported one stays as it is. */
export const editKick =
  (changes: Partial<KickRecipe>): Edit =>
  (old) =>
    old.kick.kind === "made"
      ? { ...old, kick: { ...old.kick, recipe: { ...old.kick.recipe, ...changes } } }
      : old;

/** A made bass with some of its fields changed; an imported one stays as it is. */
export const editBass =
  (changes: Partial<BassRecipe>): Edit =>
  (old) =>
    old.bass.kind === "made"
      ? { ...old, bass: { ...old.bass, recipe: { ...old.bass.recipe, ...changes } } }
      : old;

/** What a recipe starts from, field by field, as far as its controls know. */
export function defaults(sheet: ControlSheet | undefined): Record<string, unknown> {
  const fields = [...(sheet?.controls ?? []), ...(sheet?.choices ?? [])];
  return Object.fromEntries(fields.map((field) => [field.name, field.default]));
}
