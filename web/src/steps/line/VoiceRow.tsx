import type { PatternNote, Voice } from "../../api/client";
import { useDesk } from "../../track/context";
import { editBass, recipeOf } from "../../track/lines";
import { editVoice } from "../../track/parts";
import * as pattern from "../../track/pattern";
import { Row } from "./Row";

interface Props {
  voice: Voice;
  /** Places of the bar in beats, and how far they lie apart. */
  at: number[];
  step: number;
  bars: number;
  /** The note in hand, if it is one of this line. */
  chosen: number | null;
  onChoose: (at: number | null) => void;
}

export const shownName = (voice: Voice) => voice.name.charAt(0).toUpperCase() + voice.name.slice(1);

/** The notes of one line over a bar. */
export function VoiceRow({ voice, at, step, bars, chosen, onChoose }: Props) {
  const { change, say } = useDesk();
  const recipe = recipeOf(voice);
  const name = shownName(voice);
  const muting = {
    muted: voice.mute,
    onMute: () => change(editVoice(voice.id, (old) => ({ ...old, mute: !old.mute }))),
  };
  if (!recipe)
    return (
      <Row
        name={name}
        {...muting}
        cells={[]}
        instead={
          voice.bass.kind === "imported"
            ? `${voice.bass.name}: a file, played as it is`
            : "a rumble of the kick"
        }
        onToggle={() => undefined}
      />
    );
  const notes = pattern.overBars(recipe.pattern, recipe.bars, bars);
  const glides = voice.bass.kind === "made";
  const put = (next: PatternNote[]) => {
    if (next.length > 0) change(editBass(voice.id, { bars, pattern: next }));
    else say("A line keeps one note at least.");
  };
  return (
    <Row
      name={name}
      line
      {...muting}
      title="Enter sets a note, arrow up and down change its pitch, with Shift its length"
      cells={at.map((place, n) => {
        const here = pattern.noteAt(notes, place);
        return {
          on: here !== undefined,
          chosen: chosen !== null && here?.at === chosen,
          held: !here && pattern.heldAt(notes, place) !== undefined,
          beat: Number.isInteger(place),
          text: here ? `${here.glide && glides ? "⤳" : ""}${pattern.relation(here.semitones)}` : "",
          label: `${name}, place ${n + 1}${here ? `, ${pattern.relation(here.semitones)}, ${(here.beats * 4).toFixed(1)} sixteenths` : ""}`,
        };
      })}
      onToggle={(n) => {
        const place = at[n]!;
        const had = pattern.noteAt(notes, place) !== undefined;
        put(pattern.toggled(notes, pattern.freshNote(place, step)));
        onChoose(had ? null : place);
      }}
      onChoose={(n) => onChoose(pattern.noteAt(notes, at[n]!) ? (at[n] as number) : null)}
      onUp={(n, by, shift) =>
        put(
          pattern.changedAt(notes, at[n]!, (one) =>
            shift ? pattern.longer(one, (by * step) / 2) : pattern.higher(one, by),
          ),
        )
      }
    />
  );
}
