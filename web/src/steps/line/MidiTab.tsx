import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type MidiLine, type MidiNote } from "../../api/client";
import { useDesk } from "../../track/context";
import { editBass, recipeOf } from "../../track/lines";
import { editHit, hitOf, hitsOf, voiceOf } from "../../track/parts";
import { save } from "../../bench/save";

/** The loop as a standard MIDI file, and a line from one. */
export function MidiTab() {
  const { state, track, change, lineId, say } = useDesk();
  const voice = voiceOf(state, lineId);
  const [opened, setOpened] = useState<{ name: string; file: MidiLine } | null>(null);
  const fail = (error: Error) => say(error.message);
  const take = (index: number) => {
    const chosen = opened?.file.tracks[index];
    if (!chosen) return;
    api
      .fitMidi(state.brief, chosen.notes)
      .then(({ octave, bars, pattern, swing_percent, said }) => {
        change((old) => ({
          ...editBass(lineId, { octave, bars, pattern, swing: "the track’s" })(old),
          brief: { ...old.brief, swing_percent },
        }));
        say(["The line is the file’s now.", ...said].join(" "));
      })
      .catch(fail);
  };
  const takeDrum = (notes: MidiNote[], to: string) => {
    const hit = hitOf(state, to);
    api
      .fitStrokes(state.brief, hit, notes)
      .then(({ bars, steps, said }) => {
        change(editHit(hit.id, (old) => ({ ...old, bars, steps })));
        say([`${steps.length} strokes are the ${hit.name}’s now.`, ...said].join(" "));
      })
      .catch(fail);
  };
  return (
    <div className="midi">
      <p className="lead">
        Exports tempo, key, kick, hits, every line that is heard and a ghost trigger: one track
        each, with its swing.
      </p>
      <Button
        size="sm"
        onClick={() =>
          api
            .writeMidi(state, track.name)
            .then((blob) => save(blob, `${track.name}.mid`))
            .catch(fail)
        }
      >
        Save the loop as MIDI
      </Button>
      <p className="lead midi-in">
        Imports the first eight bars of one track as the line {voice?.name}, counted from the chord
        roots.
      </p>
      <label className="btn btn-sm btn-outline-secondary">
        Open a MIDI file…
        <input
          type="file"
          className="visually-hidden"
          accept=".mid,.midi,audio/midi"
          disabled={recipeOf(voice) === null}
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (!file) return;
            api
              .readMidi(file)
              .then((read) => setOpened({ name: file.name, file: read }))
              .catch(fail);
          }}
        />
      </label>
      {opened && (
        <section className="midi-file" aria-label={`Tracks of ${opened.name}`}>
          <p>
            <b>{opened.name}</b>
            {opened.file.bpm === null
              ? ": no tempo in the file, so it is read at the track’s."
              : `: ${opened.file.bpm.toFixed(1)} BPM`}
            {opened.file.key && `, key signature ${opened.file.key}`}
            {opened.file.bpm !== null && Math.abs(opened.file.bpm - state.brief.bpm) > 0.05 && (
              <>
                {" "}
                <Button
                  size="sm"
                  variant="outline-secondary"
                  onClick={() => {
                    const bpm = Math.round(100 * (opened.file.bpm ?? 120)) / 100;
                    change((old) => ({ ...old, brief: { ...old.brief, bpm } }));
                  }}
                >
                  Take its tempo
                </Button>
              </>
            )}
          </p>
          <ul>
            {opened.file.tracks.map((one, n) => (
              <li key={n}>
                {one.name}: {one.notes.length} notes{one.drums ? ", drums" : ""}{" "}
                {one.drums && <Drums notes={one.notes} onTake={takeDrum} />}
                <Button
                  size="sm"
                  variant="outline-secondary"
                  aria-label={`Use ${one.name} as the line`}
                  onClick={() => take(n)}
                >
                  use as the line
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** A drum track split by its notes: each may become the strokes of a hit. */
function Drums(props: { notes: MidiNote[]; onTake: (notes: MidiNote[], hit: string) => void }) {
  const { shown } = useDesk();
  const keys = [...new Set(props.notes.map(({ midi }) => midi))].sort((a, b) => a - b);
  return (
    <span className="midi-drums">
      {keys.map((midi) => {
        const mine = props.notes.filter((note) => note.midi === midi);
        return (
          <label key={midi} className="layer-choice">
            {mine.length} of note {midi}
            <select
              className="form-select form-select-sm"
              aria-label={`Strokes of note ${midi}`}
              value=""
              onChange={(event) => event.target.value && props.onTake(mine, event.target.value)}
            >
              <option value="">strokes of…</option>
              {hitsOf(shown).map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        );
      })}
    </span>
  );
}
