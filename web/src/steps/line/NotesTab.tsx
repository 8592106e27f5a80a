import { useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { api, type Hit, type PatternNote } from "../../api/client";
import { Chooser } from "../../bench/Chooser";
import { decibels } from "../../bench/scale";
import { Slider } from "../../bench/Slider";
import { useDesk } from "../../track/context";
import { editBass, editHit, rootsOf } from "../../track/edits";
import { useLatest } from "../../track/latest";
import * as pattern from "../../track/pattern";
import { NoteEditor } from "./NoteEditor";
import { Row } from "./Row";
import { SoundTab } from "./SoundTab";

const same = (a: PatternNote[], b: PatternNote[]) => JSON.stringify(a) === JSON.stringify(b);

/** One bar at a time: strokes of the hits above, notes of the line below. */
export function NotesTab({ named }: { named: Record<string, PatternNote[]> }) {
  const { shown, change, controls, bar, facts, say } = useDesk();
  const [grid, setGrid] = useState<pattern.Grid>("sixteenths");
  const [chosen, setChosen] = useState<number | null>(null);
  const report = useLatest(shown, api.voices);
  const recipe = shown.bass.kind === "imported" ? null : shown.bass.recipe;
  const glides = shown.bass.kind === "made";
  const bars = recipe?.bars ?? Math.max(1, ...shown.hits.map((hit) => hit.bars));
  const first = 4 * (bar % bars);
  const places = pattern.GRIDS[grid];
  const step = 4 / places;
  const at = Array.from({ length: places }, (_, n) => pattern.onPulse(first + n * step));
  const swing = controls["brief"]?.controls.find((one) => one.name === "swing_percent");
  const put = (notes: PatternNote[]) => {
    if (notes.length > 0) change(editBass({ pattern: notes }));
    else say("A line keeps one note at least.");
  };
  const setBars = (to: number) =>
    change((old) => ({
      ...editBass(
        recipe ? { bars: to, pattern: pattern.overBars(recipe.pattern, recipe.bars, to) } : {},
      )(old),
      hits: old.hits.map((hit) => ({
        ...hit,
        bars: to,
        steps: pattern.overBars(hit.steps, hit.bars, to),
      })),
    }));
  const strokes = (index: number, edit: (steps: Hit["steps"]) => Hit["steps"]) =>
    change(
      editHit(index, (hit) => ({
        ...hit,
        bars,
        steps: edit(pattern.overBars(hit.steps, hit.bars, bars)),
      })),
    );
  const kickAt = (place: number) =>
    shown.brief.kick_beats.some((beat) => Math.abs(beat - 1 - (place - first)) < 0.01);
  const note = recipe && chosen !== null ? pattern.noteAt(recipe.pattern, chosen) : undefined;
  const edit = (change: (old: PatternNote) => PatternNote) =>
    recipe && chosen !== null && put(pattern.changedAt(recipe.pattern, chosen, change));
  const found = report.data;
  return (
    <>
      <div className="line-wishes">
        <Chooser
          shown="length"
          name="pattern-bars"
          label="Length of the pattern in bars"
          options={[1, 2, 3, 4].map((n): [number, string] => [n, `${n}`])}
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
                  onClick={() => change(editBass({ bars: 1, pattern: notes }))}
                >
                  {name}
                </Button>
              );
            })}
          </ButtonGroup>
        )}
      </div>
      <div className="stave" role="group" aria-label={`Bar ${(bar % bars) + 1} of the pattern`}>
        <Row
          name={shown.kick.name}
          title="The same in every bar"
          cells={at.map((place, n) => ({
            on: kickAt(place),
            off: places !== 16,
            beat: Number.isInteger(place),
            text: kickAt(place) ? "●" : "",
            label: `${shown.kick.name}, place ${n + 1}`,
          }))}
          onToggle={(n) => {
            const beat = at[n]! - first + 1;
            change((old) => {
              const now = old.brief.kick_beats;
              const next = now.includes(beat) ? now.filter((one) => one !== beat) : [...now, beat];
              return next.length === 0
                ? old
                : { ...old, brief: { ...old.brief, kick_beats: next.sort((a, b) => a - b) } };
            });
          }}
        />
        {shown.hits.map((hit, n) => {
          const steps = pattern.overBars(hit.steps, hit.bars, bars);
          return (
            <Row
              key={n}
              name={hit.name}
              muted={hit.mute}
              onMute={() => change(editHit(n + 1, (old) => ({ ...old, mute: !old.mute })))}
              cells={at.map((place, m) => {
                const here = pattern.noteAt(steps, place);
                return {
                  on: here !== undefined,
                  beat: Number.isInteger(place),
                  text: here
                    ? here.strength < 1
                      ? `${Math.round(100 * here.strength)}`
                      : "●"
                    : "",
                  label: `${hit.name}, place ${m + 1}${here ? `, strength ${Math.round(100 * here.strength)} per cent` : ""}`,
                };
              })}
              onToggle={(m) =>
                strokes(n + 1, (old) => pattern.toggled(old, pattern.freshStep(at[m]!)))
              }
              onUp={(m, by) =>
                strokes(n + 1, (old) =>
                  pattern.changedAt(old, at[m]!, (one) => pattern.stronger(one, 0.1 * by)),
                )
              }
            />
          );
        })}
        {recipe && (
          <Row
            name="Bass"
            line
            title="Enter sets a note, arrow up and down change its pitch, with Shift its length"
            cells={at.map((place, n) => {
              const here = pattern.noteAt(recipe.pattern, place);
              return {
                on: here !== undefined,
                chosen: chosen !== null && here?.at === chosen,
                held: !here && pattern.heldAt(recipe.pattern, place) !== undefined,
                beat: Number.isInteger(place),
                text: here
                  ? `${here.glide && glides ? "⤳" : ""}${pattern.relation(here.semitones)}`
                  : "",
                label: `Bass, place ${n + 1}${here ? `, ${pattern.relation(here.semitones)}, ${(here.beats * 4).toFixed(1)} sixteenths` : ""}`,
              };
            })}
            onToggle={(n) => {
              const place = at[n]!;
              const had = pattern.noteAt(recipe.pattern, place) !== undefined;
              put(pattern.toggled(recipe.pattern, pattern.freshNote(place, step)));
              setChosen(had ? null : place);
            }}
            onChoose={(n) =>
              setChosen(pattern.noteAt(recipe.pattern, at[n]!) ? (at[n] as number) : null)
            }
            onUp={(n, by, shift) =>
              put(
                pattern.changedAt(recipe.pattern, at[n]!, (one) =>
                  shift ? pattern.longer(one, (by * step) / 2) : pattern.higher(one, by),
                ),
              )
            }
          />
        )}
      </div>
      {!recipe && <SoundTab />}
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
      {recipe && found && (
        <p className={`line-report${report.stale ? " dim" : ""}`}>
          Notes lie {decibels(found.low_spread_db)} apart from 20 to 150 Hz, which is the sound, and{" "}
          {decibels(found.heard_spread_db)} as they are heard: the ear takes lower notes for softer.{" "}
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={found.low_spread_db < 0.5 || report.stale}
            onClick={() =>
              api
                .even(shown)
                .then((evened) => {
                  change(() => evened);
                  say("Velocities trimmed. Undo brings back what was.");
                })
                .catch((error: Error) => say(error.message))
            }
          >
            Even out the sound
          </Button>
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
