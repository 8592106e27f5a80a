import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Hit } from "../../api/client";
import { MOST_PARTS } from "../../api/limits";
import { useDesk } from "../../track/context";
import { newHit } from "../../track/edits";
import { editHit, freeName, hitOf, hitsOf, withPart, withoutPart } from "../../track/parts";

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

/** The hits of the track, the one at hand at three strengths, and a new one. */
export function HitStrip() {
  const { shown, change, controls, hitId, chooseHit, strike, say } = useDesk();
  const starts = useQuery({ queryKey: ["starts"], queryFn: api.starts, staleTime: Infinity });
  const [naming, setNaming] = useState<string | null>(null);
  const hits = hitsOf(shown);
  const add = (choice: string) => {
    const [kind, name, source] = KINDS.find(([, name]) => name === choice) ?? [];
    const first = source && Object.values(starts.data?.[source] ?? {})[0];
    if (!kind || !name || !first) return;
    const made = newHit(shown, controls, kind, name, first);
    change(withPart(made));
    chooseHit(made.id);
  };
  const rename = () => {
    const name = naming?.trim();
    if (name)
      change((old) => editHit(hitId, (hit) => ({ ...hit, name: freeName(old, name, hitId) }))(old));
    setNaming(null);
  };
  return (
    <div className="hit-strip" role="group" aria-label="Hits of the track">
      {hits.map((hit) =>
        naming !== null && hit.id === hitId ? (
          <input
            key={hit.id}
            className="form-control form-control-sm hit-naming"
            aria-label="Name of the hit"
            autoFocus
            maxLength={60}
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
            key={hit.id}
            size="sm"
            variant={hit.id === hitId ? "secondary" : "outline-secondary"}
            aria-pressed={hit.id === hitId}
            title={
              hit.id === hitId ? "Once more to rename" : `${hit.kind}, ${hit.layers.length} layers`
            }
            onClick={() => (hit.id === hitId ? setNaming(hit.name) : chooseHit(hit.id))}
          >
            {hit.name}
          </Button>
        ),
      )}
      <select
        className="form-select form-select-sm add-hit"
        aria-label="Add a hit"
        value=""
        disabled={!starts.data || shown.parts.length >= MOST_PARTS}
        onChange={(event) => add(event.target.value)}
      >
        <option value="">+ hit…</option>
        {KINDS.map(([, name]) => (
          <option key={name}>{name}</option>
        ))}
      </select>
      {hitId !== hits[0]?.id && (
        <Button
          size="sm"
          variant="outline-secondary"
          aria-label={`Remove ${hitOf(shown, hitId).name}`}
          title="Remove this hit; undo brings it back"
          onClick={() => {
            change(withoutPart(hitId));
            chooseHit(hits[Math.max(0, hits.findIndex(({ id }) => id === hitId) - 1)]?.id ?? "");
            say("Removed. Undo brings it back.");
          }}
        >
          remove
        </Button>
      )}
      <span className="spring" />
      {[
        ["soft", 0.35, "Z"],
        ["medium", 0.7, "X"],
        ["hard", 1, "C"],
      ].map(([name, strength, key]) => (
        <Button
          key={name}
          size="sm"
          variant="outline-secondary"
          title={`Hear a ${name} stroke (${key})`}
          onClick={() => strike({ strength: strength as number })}
        >
          {name}
        </Button>
      ))}
    </div>
  );
}
