import type {
  BassRecipe,
  ControlSheet,
  Hit,
  PatternNote,
  PlayedRecipe,
  TrackState,
  Voice,
} from "../api/client";
import { defaults, type Edit } from "./edits";

export const MOST_LINES = 4;

/** Every line of a track, the bass first. */
export const voicesOf = (state: TrackState): Voice[] => [
  { name: "bass", bass: state.bass, mute: state.bass_mute },
  ...state.lines,
];

/** What a line plays; null where it has no notes: a file's are not known, a rumble has none. */
export const recipeOf = (voice: Voice | undefined): BassRecipe | PlayedRecipe | null =>
  voice && "recipe" in voice.bass ? voice.bass.recipe : null;

/** One line changed; 0 is the bass, whose name stays. */
export const editVoice =
  (index: number, change: (old: Voice) => Voice): Edit =>
  (old) => {
    if (index > 0)
      return { ...old, lines: old.lines.map((one, n) => (n === index - 1 ? change(one) : one)) };
    const { bass, mute } = change(voicesOf(old)[0] as Voice);
    return { ...old, bass, bass_mute: mute };
  };

/** A made or played line with some of its fields changed; a file stays as it is. */
export const editBass = (
  index: number,
  changes: Partial<BassRecipe> | Partial<PlayedRecipe>,
): Edit =>
  editVoice(index, (old) =>
    "recipe" in old.bass
      ? ({
          ...old,
          bass: { ...old.bass, recipe: { ...old.bass.recipe, ...changes } },
        } as Voice)
      : old,
  );

/** A rumble of the kick in place of what sounded the line. */
export const withRumble =
  (index: number, sheets: Record<string, ControlSheet>): Edit =>
  (state) =>
    editVoice(index, (old) => ({
      ...old,
      name: voicesOf(state).some(({ name }) => name === "rumble") ? old.name : "rumble",
      bass: { ...defaults(sheets["rumble"]), kind: "rumble" } as unknown as Voice["bass"],
    }))(state);

/** The same notes for another sound; a fresh pattern where there were none. */
export const withSound = (
  index: number,
  sheets: Record<string, ControlSheet>,
  hit: Hit | null,
  fresh: PatternNote[],
): Edit =>
  editVoice(index, (old) => {
    const { octave, choke, bars, pattern } = recipeOf(old) ?? {
      octave: 1,
      choke: "none",
      bars: 1,
      pattern: fresh,
    };
    const sound = defaults(sheets[hit ? "played" : "bass"]);
    const recipe = { ...sound, octave, choke, bars, pattern };
    const bass = hit ? { kind: "played", hit, recipe } : { kind: "made", recipe };
    return { ...old, bass } as unknown as Voice;
  });

/** One line more, an octave above the bass and made here. */
export const addLine =
  (sheets: Record<string, ControlSheet>, fresh: PatternNote[]): Edit =>
  (old) => {
    const taken = voicesOf(old).map(({ name }) => name.toLowerCase());
    const name = ["mid", "sub", "top", "line 4"].find((one) => !taken.includes(one)) ?? "line";
    const recipe = {
      ...defaults(sheets["bass"]),
      octave: name === "sub" ? 1 : 2,
      choke: "none",
      bars: 1,
      pattern: fresh,
    };
    const line = { name, bass: { kind: "made", recipe }, mute: false } as unknown as Voice;
    return { ...old, lines: [...old.lines, line] };
  };

/** The track without one of the lines beside the bass. */
export const withoutLine =
  (index: number): Edit =>
  (old) => ({ ...old, lines: old.lines.filter((_, n) => n !== index - 1) });
