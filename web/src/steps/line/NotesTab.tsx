import { useMemo, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { api, type Hit, type PatternNote, type TrackState, type Voice } from "../../api/client";
import { Chooser } from "../../bench/Chooser";
import { decibels } from "../../bench/scale";
import { Slider } from "../../bench/Slider";
import { useDesk } from "../../track/context";
import { rootsOf } from "../../track/edits";
import { editBass, recipeOf } from "../../track/lines";
import { editHit, hitOf, hitsOf, kickOf, voiceOf, voicesOf } from "../../track/parts";
import { useLatest } from "../../track/latest";
import * as pattern from "../../track/pattern";
import { FoundNotes } from "./FoundNotes";
import { NoteEditor } from "./NoteEditor";
import { Row } from "./Row";
import { SoundTab } from "./SoundTab";
import { StrokeEditor } from "./StrokeEditor";
import { VoiceRow } from "./VoiceRow";

const same = (a: PatternNote[], b: PatternNote[]) => JSON.stringify(a) === JSON.stringify(b);

/** A hit with its pattern over some bars. */
const spread = (hit: Hit, to: number) =>
  editHit(hit.id, (old) => ({
    ...old,
    bars: to,
    steps: pattern.overBars(old.steps, old.bars, to),
  }));

const askVoices = ({ state, line }: { state: TrackState; line: string }) => api.voices(state, line);

/** One bar at a time: strokes of the hits above, notes of the line below. */
export function NotesTab({ named }: { named: Record<string, PatternNote[]> }) {
  const { shown, change, controls, bar, facts, say, lineId, choosePart } = useDesk();
  const [grid, setGrid] = useState<pattern.Grid>("sixteenths");
  const [chosen, setChosen] = useState<number | null>(null);
  const voice = voiceOf(shown, lineId);
  const report = useLatest(
    useMemo(() => ({ state: shown, line: voice.id }), [shown, voice.id]),
    askVoices,
  );
  const voices = voicesOf(shown);
  const recipe = recipeOf(voice);
  const glides = voice.bass.kind === "made";
  const bars = Math.max(
    ...voices.map((one) => recipeOf(one)?.bars ?? 1),
    ...hitsOf(shown).map((hit) => hit.bars),
  );
  const first = 4 * (bar % bars);
  const places = pattern.GRIDS[grid];
  const step = 4 / places;
  const at = Array.from({ length: places }, (_, n) => pattern.onPulse(first + n * step));
  const reach = pattern.reachOf(step, facts.beat_ms);
  const [struck, setStruck] = useState<{ id: string; at: number } | null>(null);
  const swing = controls["brief"]?.controls.find((one) => one.name === "swing_percent");
  const put = (notes: PatternNote[]) => {
    if (notes.length > 0) change(editBass(voice.id, { bars, pattern: notes }));
    else say("A line keeps one note at least.");
  };
  const setBars = (to: number) =>
    change((old) => {
      const struck = hitsOf(old).reduce((now, hit) => spread(hit, to)(now), old);
      return voicesOf(old).reduce((now, { id, ...one }) => {
        const line = recipeOf(one as Voice);
        return line
          ? editBass(id, { bars: to, pattern: pattern.overBars(line.pattern, line.bars, to) })(now)
          : now;
      }, struck);
    });
  const strokes = (id: string, edit: (steps: Hit["steps"]) => Hit["steps"]) => {
    const hit = hitOf(shown, id);
    const steps = edit(pattern.overBars(hit.steps, hit.bars, bars));
    if (steps.length > 0 || hit.id !== kickOf(shown).id)
      change(editHit(id, (old) => ({ ...old, bars, steps })));
    else say("The kick keeps one stroke at least.");
  };
  const notes = recipe ? pattern.overBars(recipe.pattern, recipe.bars, bars) : [];
  const note = chosen !== null ? pattern.noteAt(notes, chosen) : undefined;
  const edit = (change: (old: PatternNote) => PatternNote) =>
    chosen !== null && put(pattern.changedAt(notes, chosen, change));
  const found = report.data;
  const inHand = hitsOf(shown).find(({ id }) => id === struck?.id);
  const hand = inHand && {
    ...inHand,
    steps: pattern.overBars(inHand.steps, inHand.bars, bars),
  };
  return (
    <>
      <div className="line-wishes">
        <Chooser
          shown="length"
          name="pattern-bars"
          label="Length of the pattern in bars"
          options={[1, 2, 3, 4, 6, 8].map((n): [number, string] => [n, `${n}`])}
          value={bars}
          onChoose={setBars}
        />
        <label className="layer-choice">
          grid
          <select
            className="form-select form-select-sm"
            value={grid}
            onChange={(event) => setGrid(event.target.value as pattern.Grid)}
          >
            {Object.keys(pattern.GRIDS).map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        {swing && (
          <Slider
            control={swing}
            value={shown.brief.swing_percent}
            onChange={(swing_percent) =>
              change((old) => ({ ...old, brief: { ...old.brief, swing_percent } }))
            }
          />
        )}
        {recipe && (
          <ButtonGroup size="sm" aria-label="Starting patterns">
            {Object.entries(named).map(([name, notes]) => {
              const here = recipe.bars === 1 && same(notes, recipe.pattern);
              return (
                <Button
                  key={name}
                  variant={here ? "secondary" : "outline-secondary"}
                  aria-pressed={here}
                  onClick={() => change(editBass(voice.id, { bars: 1, pattern: notes }))}
                >
                  {name}
                </Button>
              );
            })}
          </ButtonGroup>
        )}
      </div>
      <div className="stave" role="group" aria-label={`Bar ${(bar % bars) + 1} of the pattern`}>
        {hitsOf(shown).map((hit, n) => {
          const steps = pattern.overBars(hit.steps, hit.bars, bars);
          const here = at.map((place) => pattern.noteNear(steps, place, reach));
          const inHand = struck?.id === hit.id ? struck.at : null;
          return (
            <Row
              key={hit.id}
              name={hit.name}
              muted={hit.mute}
              onMute={
                n === 0
                  ? undefined
                  : () => change(editHit(hit.id, (old) => ({ ...old, mute: !old.mute })))
              }
              cells={at.map((place, m) => {
                const one = here[m];
                const late = one ? pattern.offGrid(one.at, step, facts.beat_ms) : "";
                return {
                  on: one !== undefined,
                  chosen: one !== undefined && one.at === inHand,
                  beat: Number.isInteger(place),
                  velocity: one?.velocity,
                  text: one
                    ? late || (one.velocity < 1 ? `${Math.round(100 * one.velocity)}` : "●")
                    : "",
                  label: `${hit.name}, place ${m + 1}${one ? `, velocity ${Math.round(100 * one.velocity)} per cent` : ""}${late ? `, ${late} ms off the grid` : ""}`,
                };
              })}
              onToggle={(m) => {
                const fresh = pattern.freshStep(at[m]!);
                strokes(hit.id, (old) => pattern.toggled(old, fresh, reach));
                setStruck({ id: hit.id, at: fresh.at });
              }}
              onChoose={(m) => setStruck({ id: hit.id, at: here[m]?.at ?? -1 })}
              onUp={(m, by) =>
                strokes(hit.id, (old) =>
                  pattern.changedAt(old, here[m]?.at ?? -1, (one) =>
                    pattern.stronger(one, 0.1 * by),
                  ),
                )
              }
              marks={pattern.between(steps, at, reach).map((one) => ({
                at: one.at,
                along: (one.at - first) / 4,
                velocity: one.velocity,
                chosen: one.at === inHand,
                label: `${hit.name}, ${pattern.offGrid(one.at, step, facts.beat_ms)} ms off the grid, velocity ${Math.round(100 * one.velocity)} per cent`,
              }))}
              onMark={(place) => setStruck({ id: hit.id, at: place })}
            />
          );
        })}
        {voices.map((one) => (
          <VoiceRow
            key={one.id}
            voice={one}
            at={at}
            step={step}
            reach={reach}
            bars={bars}
            chosen={one.id === voice.id ? chosen : null}
            onChoose={(place) => {
              setStruck(null);
              choosePart(one.id);
              setChosen(place);
            }}
          />
        ))}
      </div>
      {hand && (
        <StrokeEditor
          hit={hand}
          stroke={pattern.noteAt(hand.steps, struck?.at ?? -1)}
          step={step}
          bars={bars}
          onEdit={(edit, to) => {
            strokes(hand.id, edit);
            if (to !== undefined) setStruck({ id: hand.id, at: to });
          }}
        />
      )}
      {!recipe && <SoundTab />}
      {!recipe && found && found.notes.length > 0 && (
        <FoundNotes report={found} beatMs={facts.beat_ms} />
      )}
      {recipe && (
        <NoteEditor
          note={note}
          heard={found?.notes.find(
            (one) => note && Math.abs(one.start_ms / facts.beat_ms - note.at) < 0.15,
          )}
          root={rootsOf(shown.brief)[Math.floor((note?.at ?? 0) / 4) % facts.bars] ?? ""}
          onEdit={edit}
          glides={glides}
        />
      )}
      {found && found.notes.length > 0 && (
        <p className={`line-report${report.stale ? " dim" : ""}`}>
          Notes lie {decibels(found.low_spread_db)} apart from 20 to 150 Hz, which is the sound, and{" "}
          {decibels(found.heard_spread_db)} as they are heard: the ear takes lower notes for softer.{" "}
          {recipe && (
            <Button
              size="sm"
              variant="outline-secondary"
              disabled={found.low_spread_db < 0.5 || report.stale}
              onClick={() =>
                api
                  .even(shown, voice.id)
                  .then((evened) => {
                    change(() => evened);
                    say("Velocities trimmed. Undo takes it back.");
                  })
                  .catch((error: Error) => say(error.message))
              }
            >
              Even out the sound
            </Button>
          )}
          {found.spills[0] && (
            <span>
              {" "}
              Worst spill: {found.spills[0].old} under {found.spills[0].new},{" "}
              {decibels(found.spills[0].db, 0)}
              {found.spills[0].wobble_hz
                ? `, wobbling at ${found.spills[0].wobble_hz.toFixed(1)} Hz`
                : ""}
              .
            </span>
          )}
        </p>
      )}
    </>
  );
}
