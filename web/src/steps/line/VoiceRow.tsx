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
  /** How far from a place a note is still of that place, in beats. */
  reach: number;
  bars: number;
  /** The note in hand, if it is one of this line. */
  chosen: number | null;
  onChoose: (at: number | null) => void;
}

export const shownName = (voice: Voice) => voice.name.charAt(0).toUpperCase() + voice.name.slice(1);

/** The notes of one line over a bar. */
export function VoiceRow({ voice, at, step, reach, bars, chosen, onChoose }: Props) {
  const { change, facts, say } = useDesk();
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
        const here = pattern.noteNear(notes, place, reach);
        const late = here ? pattern.offGrid(here.at, step, facts.beat_ms) : "";
        return {
          on: here !== undefined,
          chosen: chosen !== null && here?.at === chosen,
          held: !here && pattern.heldAt(notes, place) !== undefined,
          beat: Number.isInteger(place),
          velocity: here?.velocity,
          text: here ? `${here.glide && glides ? "⤳" : ""}${pattern.relation(here.semitones)}` : "",
          label: `${name}, place ${n + 1}${here ? `, ${pattern.relation(here.semitones)}, ${(here.beats * 4).toFixed(1)} sixteenths` : ""}${late ? `, ${late} ms off the grid` : ""}`,
        };
      })}
      onToggle={(n) => {
        const place = at[n]!;
        const had = pattern.noteNear(notes, place, reach) !== undefined;
        put(pattern.toggled(notes, pattern.freshNote(place, step), reach));
        onChoose(had ? null : place);
      }}
      onChoose={(n) => onChoose(pattern.noteNear(notes, at[n]!, reach)?.at ?? null)}
      marks={pattern.between(notes, at, reach).map((one) => ({
        at: one.at,
        along: (one.at - at[0]!) / 4,
        velocity: one.velocity,
        chosen: one.at === chosen,
        label: `${name}, ${pattern.relation(one.semitones)}, ${pattern.offGrid(one.at, step, facts.beat_ms)} ms off the grid`,
      }))}
      onMark={(place) => onChoose(place)}
      onUp={(n, by, shift) =>
        put(
          pattern.changedAt(notes, pattern.noteNear(notes, at[n]!, reach)?.at ?? -1, (one) =>
            shift ? pattern.longer(one, (by * step) / 2) : pattern.higher(one, by),
          ),
        )
      }
    />
  );
}
