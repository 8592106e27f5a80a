import type {
  BassRecipe,
  ControlSheet,
  Hit,
  PatternNote,
  PlayedRecipe,
  Voice,
} from "../api/client";
import { defaults, placeOf } from "./edits";
import { editVoice, freeName, voicesOf, withPart, type Edit } from "./parts";

/** What a line plays; null where it has no notes: a file's are not known, a rumble has none. */
export const recipeOf = (voice: Voice | undefined): BassRecipe | PlayedRecipe | null =>
  voice && "recipe" in voice.bass ? voice.bass.recipe : null;

/** A made or played line with some of its fields changed; a file stays as it is. */
export const editBass = (id: string, changes: Partial<BassRecipe> | Partial<PlayedRecipe>): Edit =>
  editVoice(id, (old) =>
    "recipe" in old.bass
      ? ({
          ...old,
          bass: { ...old.bass, recipe: { ...old.bass.recipe, ...changes } },
        } as Voice)
      : old,
  );

/** A rumble of the kick in place of what sounded the line. */
export const withRumble =
  (id: string, sheets: Record<string, ControlSheet>): Edit =>
  (state) => {
    // A rumble has no strokes: what it started stays without it.
    const starting = state.duckings.map((one) => ({
      ...one,
      triggers: one.triggers.filter((trigger) => trigger !== id),
    }));
    const duckings = starting.map((one) => ({
      ...one,
      on: one.on && (one.triggers.length > 0 || one.rate !== "none"),
    }));
    return editVoice(id, (old) => ({
      ...old,
      name: voicesOf(state)[0]?.id === id ? old.name : freeName(state, "rumble", id),
      bass: { ...defaults(sheets["rumble"]), kind: "rumble" } as unknown as Voice["bass"],
    }))({ ...state, duckings });
  };

/** The same notes for another sound; a fresh pattern where there were none. */
export const withSound = (
  id: string,
  sheets: Record<string, ControlSheet>,
  hit: Hit | null,
  fresh: PatternNote[],
): Edit =>
  editVoice(id, (old) => {
    const { octave, choke, bars, pattern } = recipeOf(old) ?? {
      octave: 1,
      choke: "none",
      bars: 1,
      pattern: fresh,
    };
    const sound = defaults(sheets[hit ? "played" : "bass"]);
    const recipe = { ...sound, octave, choke, bars, pattern };
    // The hit as it is now: no part of the track, so without an id.
    const bass = hit
      ? { kind: "played", hit: { ...hit, id: "" }, recipe }
      : { kind: "made", recipe };
    return { ...old, bass } as unknown as Voice;
  });

/** One line more, an octave above the bass and made here. */
export const addLine =
  (id: string, sheets: Record<string, ControlSheet>, fresh: PatternNote[]): Edit =>
  (old) => {
    const taken = old.parts.map(({ name }) => name.toLowerCase());
    const name = ["mid", "sub", "top"].find((one) => !taken.includes(one)) ?? freeName(old, "line");
    const recipe = {
      ...defaults(sheets["bass"]),
      octave: name === "sub" ? 1 : 2,
      choke: "none",
      bars: 1,
      pattern: fresh,
    };
    const line = { id, part: "line", name, bass: { kind: "made", recipe }, mute: false };
    const more = { ...line, stages: [], after: [], moves: [], place: placeOf(sheets, 0) };
    return withPart(more as unknown as Voice)(old);
  };
