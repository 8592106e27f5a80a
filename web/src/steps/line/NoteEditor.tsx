import { Button } from "react-bootstrap";
import type { PatternNote, Voices } from "../../api/client";
import { PerCent } from "../../bench/PerCent";
import { decibels, millis } from "../../bench/scale";
import * as pattern from "../../track/pattern";

const RELATIONS = [-12, -5, 0, 3, 4, 5, 7, 10, 12, 19, 24];

interface Props {
  note: PatternNote | undefined;
  heard: Voices["notes"][number] | undefined;
  root: string;
  /** A hit that plays the line does not glide. */
  glides: boolean;
  onEdit: (change: (old: PatternNote) => PatternNote) => void;
}

/** The note at hand: pitch above the root, length, velocity, glide, and how it is heard. */
export function NoteEditor({ note, heard, root, glides, onEdit }: Props) {
  if (!note)
    return (
      <p className="calm line-report">
        Notes are counted from the chord root: change the chords and the line follows. Choose one to
        change its pitch, length, velocity and glide.
      </p>
    );
  const relations = RELATIONS.includes(note.semitones)
    ? RELATIONS
    : [...RELATIONS, note.semitones].sort((a, b) => a - b);
  const kick = heard && Math.abs(heard.kick_ms);
  return (
    <div className="note-editor" role="group" aria-label="Selected note">
      <label className="layer-choice">
        above {root}
        <select
          className="form-select form-select-sm"
          value={note.semitones}
          onChange={(event) => onEdit((old) => ({ ...old, semitones: Number(event.target.value) }))}
        >
          {relations.map((semitones) => (
            <option key={semitones} value={semitones}>
              {pattern.relation(semitones)}
            </option>
          ))}
        </select>
      </label>
      <span className="layer-choice">
        <Button
          size="sm"
          variant="outline-secondary"
          onClick={() => onEdit((old) => pattern.longer(old, -0.125))}
        >
          shorter
        </Button>
        <b>{(4 * note.beats).toFixed(1)}</b> sixteenths
        <Button
          size="sm"
          variant="outline-secondary"
          onClick={() => onEdit((old) => pattern.longer(old, 0.125))}
        >
          longer
        </Button>
      </span>
      <PerCent
        label="velocity"
        value={note.velocity}
        onChange={(velocity) => onEdit((old) => ({ ...old, velocity }))}
      />
      {glides && (
        <label className="layer-choice">
          <input
            type="checkbox"
            className="form-check-input"
            checked={note.glide}
            onChange={(event) => onEdit((old) => ({ ...old, glide: event.target.checked }))}
          />
          glide
        </label>
      )}
      {heard && kick !== undefined && (
        <span className="note-heard">
          {heard.timing === "with the kick"
            ? "with the kick"
            : heard.timing === "between kicks"
              ? "between kicks"
              : `${millis(kick, 0)} ${heard.timing}`}
          {heard.ducked_db < -0.5 && `, starts ducked by ${decibels(-heard.ducked_db)}`}
          {", "}
          {decibels(heard.low_db)} low band
        </span>
      )}
    </div>
  );
}
