import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Hit } from "../api/client";
import { MOST_PARTS } from "../api/limits";
import { useDesk } from "../track/context";
import { newHit } from "../track/edits";
import { addLine, recipeOf } from "../track/lines";
import {
  editPart,
  everything,
  freeName,
  kickOf,
  newId,
  type Part,
  partOf,
  renamed,
  voicesOf,
  withPart,
  withoutPart,
} from "../track/parts";
import { withChord, withOutputs } from "../track/stems";
import { opensByKey } from "./opensByKey";
import { useShortcuts } from "./useShortcuts";
import "./partstrip.css";

const KINDS: [Hit["kind"], string, string][] = [
  ["kick", "Kick", "kick"],
  ["808", "808", "808"],
  ["snare", "Snare", "snare"],
  ["snare", "Struck snare", "membrane"],
  ["clap", "Clap", "clap"],
  ["hat", "Hat", "hat"],
  ["tom", "Tom", "percussion"],
  ["percussion", "Percussion", "percussion"],
];
const LINE = "Line";
const CHORD = "Held chord";
const OUTPUTS = "Copy or group";

/** A picture of each kind of part, 16 by 10: strokes, a wave, a file, chords, what comes together. */
const PICTURES: Record<Part["part"], string> = {
  hit: "M1 9V1M5 9V5M9 9V1M13 9V5",
  line: "M1 8H5V3H9V6H12V2H15",
  stem: "M1 5H3L4 2L6 8L8 1L10 9L12 3L13 5H15",
  chord: "M1 2H15M1 5H15M1 8H15",
  outputs: "M1 1L8 5L1 9M8 5H15",
  sum: "M1 1L6 5M1 5H15M1 9L6 5M11 2L15 5L11 8",
};

/** What there is in the track, the part at hand in any step, and more of them. */
export function PartStrip() {
  const { track, shown, change, controls, partId, choosePart, say } = useDesk();
  const starts = useQuery({ queryKey: ["starts"], queryFn: api.starts, staleTime: Infinity });
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const [naming, setNaming] = useState<string | null>(null);
  const parts = everything(shown);
  const at = parts.findIndex(({ id }) => id === partId);
  const step = (by: number) => choosePart(parts[(at + by + parts.length) % parts.length]!.id);
  const part = partOf(shown, partId);
  const mutable = part && part.part !== "sum" && part.id !== kickOf(shown).id ? part : null;
  const renamable = (one: (typeof parts)[number]) => one.id === partId && one.part !== "sum";
  const mute = () =>
    mutable
      ? change(editPart(mutable.id, { mute: !mutable.mute }))
      : say("Kick and sum cannot be muted: all is judged by them.");
  useShortcuts({ n: () => step(1), p: () => step(-1), d: mute });
  const here = track.sections.find(({ id }) => id === track.section);
  const own = new Set(here?.differs.map((one) => one.part));
  const row = useRef<HTMLDivElement>(null);
  useEffect(() => {
    row.current
      ?.querySelector("[aria-pressed=true]")
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [partId]);
  const low = voicesOf(shown);
  const needed = partId === kickOf(shown).id || (low.length === 1 && partId === low[0]?.id);
  const add = (choice: string) => {
    const id = newId();
    if (choice === LINE) {
      const fresh = recipeOf(low[0])?.pattern ?? patterns.data?.["off-beats"] ?? [];
      change(addLine(id, controls, fresh));
    } else if (choice === CHORD) change(withChord(id, controls));
    else if (choice === OUTPUTS) change(withOutputs(id, controls));
    else {
      const [kind, name, source] = KINDS.find(([, name]) => name === choice) ?? [];
      const first = source && Object.values(starts.data?.[source] ?? {})[0];
      if (!kind || !name || !first) return;
      change(withPart({ ...newHit(shown, controls, kind, name, first), id }));
    }
    choosePart(id);
  };
  const rename = () => {
    const name = naming?.trim();
    if (name) change((old) => renamed(partId, freeName(old, name, partId))(old));
    setNaming(null);
  };
  const tile = (one: Part) =>
    naming !== null && one.id === partId ? (
      <input
        key={one.id}
        className="form-control form-control-sm hit-naming"
        aria-label="Name of the part"
        autoFocus
        maxLength={one.part === "hit" ? 60 : 40}
        value={naming}
        onChange={(event) => setNaming(event.target.value)}
        onBlur={rename}
        onKeyDown={(event) => {
          if (event.key === "Enter") rename();
          if (event.key === "Escape") setNaming(null);
          event.stopPropagation();
        }}
      />
    ) : (
      <Button
        key={one.id}
        size="sm"
        className={one.mute ? "muted" : ""}
        variant={one.id === partId ? "secondary" : "outline-secondary"}
        aria-pressed={one.id === partId}
        title={renamable(one) ? "Click again to rename" : "N and P go to the next and back"}
        onClick={() => (renamable(one) ? setNaming(one.name) : choosePart(one.id))}
      >
        <svg viewBox="0 0 16 10" aria-hidden>
          <path d={PICTURES[one.part]} />
        </svg>
        {one.name}
        {own.has(one.id) && (
          <span className="own-here" title="Has something of its own in this section">
            <span aria-hidden>•</span>
            <span className="visually-hidden"> differs here</span>
          </span>
        )}
      </Button>
    );
  return (
    <div className="part-strip" role="group" aria-label="Parts of the track">
      <div className="strip-parts" ref={row}>
        {shown.parts.map(tile)}
      </div>
      {tile(shown.sum)}
      <select
        className="form-select form-select-sm add-hit"
        aria-label="Add a part"
        onKeyDown={opensByKey}
        value=""
        disabled={!starts.data || shown.parts.length >= MOST_PARTS}
        onChange={(event) => add(event.target.value)}
      >
        <option value="">+ part…</option>
        <optgroup label="Hit">
          {KINDS.map(([, name]) => (
            <option key={name}>{name}</option>
          ))}
        </optgroup>
        <optgroup label="Other">
          {[LINE, CHORD, OUTPUTS].map((name) => (
            <option key={name}>{name}</option>
          ))}
        </optgroup>
      </select>
      {mutable && (
        <Button
          size="sm"
          variant={mutable.mute ? "secondary" : "outline-secondary"}
          aria-pressed={mutable.mute}
          title="Not heard (D); still starts its duckings and gives its sound to others"
          onClick={mute}
        >
          mute
        </Button>
      )}
      {part && part.part !== "sum" && !needed && (
        <Button
          size="sm"
          variant="outline-secondary"
          aria-label={`Remove ${part.name}`}
          title="Undo brings it back"
          onClick={() => {
            change(withoutPart(part.id));
            choosePart(parts[Math.max(0, at - 1)]!.id);
            say(`${part.name} is gone, out of its duckings too. Undo brings it back.`);
          }}
        >
          remove
        </Button>
      )}
    </div>
  );
}
