import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Brief } from "../../api/client";
import { MOST_BARS } from "../../api/limits";
import { Slider } from "../../bench/Slider";
import { Tabs } from "../../bench/Tabs";
import { useDesk } from "../../track/context";
import { editHit, kickOf } from "../../track/parts";
import { freshStep, noteAt, toggled } from "../../track/pattern";
import { Sections } from "./Sections";
import { Tap } from "./Tap";
import { FromReference, Proposal, useReference } from "./FromReference";
import "./brief.css";

const TABS = [
  ["brief", "Brief"],
  ["sections", "Sections"],
] as const;
const VALUES = ["2", "4", "8", "16", "32", "64"];

/** Tempo, key, harmony and the schools; beside them what follows. */
export function BriefStep() {
  const { state, change, controls } = useDesk();
  const { found, read } = useReference();
  const [tab, setTab] = useState<(typeof TABS)[number][0]>("brief");
  const sheet = controls.brief;
  if (!sheet) return null;
  const brief = state.brief;
  const set = (changes: Partial<Brief>) =>
    change((old) => ({ ...old, brief: { ...old.brief, ...changes } }));
  const choice = (name: string) => sheet.choices.find((one) => one.name === name);
  const control = (name: string) => sheet.controls.find((one) => one.name === name);
  const tempo = control("bpm");
  const a4 = control("a4_hz");
  const tabs = <Tabs label="What is decided" name="brief" tabs={TABS} at={tab} onChoose={setTab} />;
  if (tab === "sections")
    return (
      <div className="step-body">
        {tabs}
        <Sections />
      </div>
    );
  return (
    <div className="brief">
      <div className="brief-wishes">
        {tabs}
        <div className="brief-row">
          {tempo && (
            <Slider control={tempo} value={brief.bpm} onChange={(bpm) => set({ bpm })} big />
          )}
          <Tap onTempo={(bpm) => set({ bpm })} />
          {a4 && <Slider control={a4} value={brief.a4_hz} onChange={(a4_hz) => set({ a4_hz })} />}
        </div>
        <div className="brief-row">
          <div className="dial-choice">
            Key
            <span className="d-flex gap-1">
              {(["tonic", "mode"] as const).map((name) => (
                <select
                  key={name}
                  className="form-select form-select-sm"
                  aria-label={choice(name)?.label}
                  value={brief[name]}
                  onChange={(event) => set({ [name]: event.target.value })}
                >
                  {choice(name)?.options.map((option) => (
                    <option key={option}>{option}</option>
                  ))}
                </select>
              ))}
            </span>
            <FromReference read={read} />
          </div>
          <ChordRoots brief={brief} tonics={choice("tonic")?.options ?? []} set={set} />
        </div>
        <KickBeats />
        {found && <Proposal found={found} set={set} />}
        <div className="schools">
          {["sub_owner", "cure", "low_cut"].map((name) => {
            const school = choice(name);
            return (
              school && (
                <fieldset key={name} title={school.help}>
                  <legend>{school.label}</legend>
                  {school.options.map((option) => (
                    <label key={option} className="school">
                      <input
                        type="radio"
                        name={name}
                        checked={brief[name as "cure"] === option}
                        onChange={() => set({ [name]: option })}
                      />
                      {option}
                    </label>
                  ))}
                  <p className="why">{school.help}</p>
                </fieldset>
              )
            );
          })}
        </div>
      </div>
      <Derived />
    </div>
  );
}

type Set = (changes: Partial<Brief>) => void;

function ChordRoots({ brief, tonics, set }: { brief: Brief; tonics: string[]; set: Set }) {
  const roots = brief.chord_roots;
  const change = (next: string[]) => set({ chord_roots: next as Brief["chord_roots"] });
  return (
    <fieldset className="chord-roots">
      <legend>Chord root per bar</legend>
      {roots.map((root, bar) => (
        <select
          key={bar}
          className="form-select form-select-sm"
          aria-label={`Chord root of bar ${bar + 1}`}
          value={root}
          onChange={(event) => change(roots.with(bar, event.target.value as typeof root))}
        >
          <option value="tonic">tonic ({brief.tonic})</option>
          {tonics.map((tonic) => (
            <option key={tonic}>{tonic}</option>
          ))}
        </select>
      ))}
      <span className="bar-count">
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={roots.length >= MOST_BARS}
          onClick={() => change([...roots, "tonic"])}
        >
          + bar
        </Button>
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={roots.length <= 1}
          onClick={() => change(roots.slice(0, -1))}
        >
          − bar
        </Button>
      </span>
    </fieldset>
  );
}

/** The kick's strokes over the bar that is shown: once for all bars while its pattern is one bar long. */
function KickBeats() {
  const { shown, bar, change } = useDesk();
  const kick = kickOf(shown);
  const first = 4 * (bar % kick.bars);
  return (
    <fieldset className="grid-16">
      <legend>
        {kick.bars === 1 ? "Kicks in the bar" : `Kicks in bar ${(bar % kick.bars) + 1}`}
      </legend>
      {Array.from({ length: 16 }, (_, n) => first + n / 4).map((at) => {
        const on = noteAt(kick.steps, at) !== undefined;
        const beat = at - first + 1;
        return (
          <button
            key={beat}
            type="button"
            className={`cell${beat % 1 === 0 ? " cell-beat" : ""}`}
            aria-pressed={on}
            aria-label={
              beat % 1 === 0
                ? `Kick on beat ${beat}`
                : `Kick on beat ${Math.floor(beat)}, sixteenth ${4 * (beat % 1) + 1}`
            }
            disabled={on && kick.steps.length === 1}
            onClick={() =>
              change(
                editHit(kick.id, (old) => ({ ...old, steps: toggled(old.steps, freshStep(at)) })),
              )
            }
          >
            {beat % 1 === 0 ? beat : "·"}
          </button>
        );
      })}
    </fieldset>
  );
}

function Derived() {
  const { facts } = useDesk();
  const ms = new Map(facts.note_values.map(({ value, ms }) => [value, ms]));
  return (
    <div className="brief-facts">
      <p className="big-facts">
        <span>
          <b>{facts.beat_ms.toFixed(1)}</b> ms a beat
        </span>
        <span>
          <b>{facts.bar_ms.toFixed(0)}</b> ms a bar
        </span>
      </p>
      <table className="values">
        <caption>Note values in ms</caption>
        <thead>
          <tr>
            <td />
            <th scope="col">dotted</th>
            <th scope="col">straight</th>
            <th scope="col">triplet</th>
          </tr>
        </thead>
        <tbody>
          {VALUES.map((part) => (
            <tr key={part}>
              <th scope="row">1/{part}</th>
              {[".", "", "t"].map((mark) => (
                <td key={mark}>{ms.get(`1/${part}${mark}`)?.toFixed(1)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <div className="low-notes" role="list" aria-label="Low notes of the key">
        {facts.low_notes.map((note) => (
          <span
            key={note.note}
            role="listitem"
            className={`low-note${note.is_tonic ? " tonic" : ""}${note.club_plays_it ? "" : " too-low"}`}
            title={note.club_plays_it ? "" : "Below what a usual club system still plays at level"}
          >
            <b>{note.note}</b> {note.hz.toFixed(1)}
            {!note.club_plays_it && (
              <span className="visually-hidden"> too low for most clubs</span>
            )}
          </span>
        ))}
      </div>
      <p className="why">Hz. Struck through: below what a usual club system still plays.</p>
    </div>
  );
}
