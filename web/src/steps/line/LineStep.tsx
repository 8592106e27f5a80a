import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { api, type BassRecipe, type PatternStep } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { useDesk } from "../../track/context";
import { defaults, editBass } from "../../track/edits";
import { Source } from "./Source";

/** The bass: what it plays and how it sounds, or a loop of one's own. */
export function LineStep() {
  const { state, change, controls, shown } = useDesk();
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const bass = shown.bass;
  const sheet = controls[bass.kind === "made" ? "bass" : "imported_bass"];
  if (!sheet) return null;
  const set = (changes: Partial<BassRecipe>) => change(editBass(changes));
  const offBeats = patterns.data?.["off-beats"];
  return (
    <div className="step-body">
      <Source
        imported={bass.kind === "imported" ? bass : null}
        onMade={() =>
          change((old) =>
            old.bass.kind === "made" || !offBeats
              ? old
              : {
                  ...old,
                  bass: {
                    kind: "made",
                    recipe: { ...defaults(controls.bass), pattern: offBeats } as BassRecipe,
                  },
                },
          )
        }
      />
      {bass.kind === "made" ? (
        <>
          <Pattern
            pattern={bass.recipe.pattern}
            named={patterns.data ?? {}}
            onChange={(pattern) => set({ pattern })}
          />
          <p className="lead">
            Plays the chord roots:{" "}
            {shown.brief.chord_roots
              .map((root) => (root === "tonic" ? shown.brief.tonic : root))
              .join(" | ")}
            . One voice: a new note cuts the old one.
          </p>
          <Controls sheet={sheet} recipe={bass.recipe} onChange={set} />
        </>
      ) : (
        <>
          <p className="lead">
            Your loop is taken to be at {state.brief.bpm} BPM, and repeated or cut to{" "}
            {state.brief.chord_roots.length} {state.brief.chord_roots.length === 1 ? "bar" : "bars"}
            . A stereo file is heard as its mono sum: the low end is mono.
          </p>
          <Controls
            sheet={sheet}
            recipe={bass}
            onChange={(changes) =>
              change((old) =>
                old.bass.kind === "imported" ? { ...old, bass: { ...old.bass, ...changes } } : old,
              )
            }
          />
        </>
      )}
    </div>
  );
}

interface PatternProps {
  pattern: PatternStep[];
  named: Record<string, PatternStep[]>;
  onChange: (pattern: PatternStep[]) => void;
}

const same = (a: PatternStep[], b: PatternStep[]) => JSON.stringify(a) === JSON.stringify(b);

/** Sixteen places of the bar; each note with its length in sixteenths. */
function Pattern({ pattern, named, onChange }: PatternProps) {
  const [chosen, setChosen] = useState<number | null>(null);
  const notes = new Map(pattern.map((note) => [note.at, note]));
  const put = (next: Map<number, PatternStep>) =>
    onChange([...next.values()].sort((a, b) => a.at - b.at));
  const toggle = (at: number) => {
    const next = new Map(notes);
    if (next.has(at)) next.delete(at);
    else next.set(at, { at, steps: 0.9 });
    if (next.size > 0) put(next);
    setChosen(next.has(at) ? at : null);
  };
  const lengthen = (at: number, by: number) => {
    const note = notes.get(at);
    if (!note) return;
    const steps = Math.round(Math.min(16, Math.max(0.1, note.steps + by)) * 10) / 10;
    put(new Map(notes).set(at, { at, steps }));
    setChosen(at);
  };
  const note = chosen === null ? undefined : notes.get(chosen);
  return (
    <div className="pattern">
      <ButtonGroup size="sm" aria-label="Starting patterns">
        {Object.entries(named).map(([name, steps]) => (
          <Button
            key={name}
            variant={same(steps, pattern) ? "secondary" : "outline-secondary"}
            aria-pressed={same(steps, pattern)}
            onClick={() => onChange(steps)}
          >
            {name}
          </Button>
        ))}
      </ButtonGroup>
      <fieldset className="grid-16">
        <legend className="visually-hidden">Notes of the bar, in sixteenths</legend>
        {Array.from({ length: 16 }, (_, at) => {
          const here = notes.get(at);
          const held = !here && pattern.some((n) => n.at < at && n.at + n.steps > at + 0.05);
          return (
            <button
              key={at}
              type="button"
              className={`cell cell-bass${at % 4 === 0 ? " cell-beat" : ""}${held ? " cell-held" : ""}`}
              aria-pressed={here !== undefined}
              aria-label={`Sixteenth ${at + 1}${here ? `, note of ${here.steps} sixteenths` : ""}`}
              onClick={() => toggle(at)}
              onKeyDown={(event) => {
                const by = { ArrowUp: 0.5, ArrowDown: -0.5 }[event.key];
                if (!by) return;
                event.preventDefault();
                lengthen(at, by);
              }}
            >
              {here ? here.steps : at % 4 === 0 ? at / 4 + 1 : "·"}
            </button>
          );
        })}
      </fieldset>
      <span className="why">
        {note ? (
          <span className="d-inline-flex gap-1 align-items-center">
            note on {note.at + 1}: {note.steps} sixteenths
            <Button size="sm" variant="outline-secondary" onClick={() => lengthen(note.at, -0.5)}>
              shorter
            </Button>
            <Button size="sm" variant="outline-secondary" onClick={() => lengthen(note.at, 0.5)}>
              longer
            </Button>
          </span>
        ) : (
          "A number is a note and its length in sixteenths; arrow up and down change it."
        )}
      </span>
    </div>
  );
}
