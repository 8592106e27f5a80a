import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Brief, type Reference } from "../../api/client";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";

const sure = (confidence: number) => `${Math.round(100 * confidence)} % sure`;

/** Beats of the bar on which most bars have a low hit. */
function lowBeats(found: Reference): number[] {
  const low = found.hits.filter((hit) => hit.kind === "low" && hit.beat < 5);
  const bars = Math.max(1, ...found.hits.map((hit) => hit.bar));
  const counts = new Map<number, Set<number>>();
  for (const { beat, bar } of low) counts.set(beat, (counts.get(beat) ?? new Set()).add(bar));
  return [...counts]
    .filter(([, where]) => where.size > bars / 2)
    .map(([beat]) => beat)
    .sort((a, b) => a - b);
}

/** Key, tempo and kicks of a loop of one's own: offered, each to be taken by itself. */
export function useReference() {
  const { say } = useDesk();
  const [found, setFound] = useState<Reference | null>(null);
  const read = (file: File) => {
    say(`Listening to ${file.name}…`);
    api
      .reference(file)
      .then((answer) => {
        setFound(answer);
        say(`${file.name} was measured; nothing was changed.`);
      })
      .catch((error: Error) => say(error.message));
  };
  return { found, read };
}

/** Asks for the loop. */
export function FromReference({ read }: { read: (file: File) => void }) {
  return (
    <SoundFile label="Loop to take key and tempo from" onFile={read}>
      From a reference…
    </SoundFile>
  );
}

interface ProposalProps {
  found: Reference;
  set: (changes: Partial<Brief>) => void;
}

/** What the loop seems to be. */
export function Proposal({ found, set }: ProposalProps) {
  const [tonic, ...mode] = (found.key ?? "").split(" ");
  const beats = lowBeats(found);
  return (
    <section className="reference" aria-label="From a reference">
      <ul>
        <li>
          {found.key ? (
            <>
              <b>{found.key}</b> {sure(found.key_confidence)}
              {found.key_confidence < 0.6 && found.other_key && `, else ${found.other_key}`}{" "}
              <Take
                label={`Take the key ${found.key}`}
                onTake={() =>
                  set({ tonic: tonic as Brief["tonic"], mode: mode.join(" ") as Brief["mode"] })
                }
              />
            </>
          ) : (
            `No key: ${found.reasons["key"] ?? ""}.`
          )}
        </li>
        <li>
          {found.bpm !== null ? (
            <>
              <b>{found.bpm.toFixed(2)}</b> BPM {sure(found.bpm_confidence)}{" "}
              <Take
                label={`Take the tempo ${found.bpm.toFixed(2)}`}
                onTake={() => set({ bpm: Math.round(100 * (found.bpm ?? 0)) / 100 })}
              />
            </>
          ) : (
            `No tempo: ${found.reasons["bpm"] ?? ""}.`
          )}
        </li>
        {found.bpm !== null && (
          <li>
            {(["low", "mid", "high"] as const)
              .map((kind) => `${found.hits.filter((hit) => hit.kind === kind).length} ${kind}`)
              .join(", ")}{" "}
            hits
            {beats.length > 0 && (
              <>
                ; low ones on {beats.join(", ")}{" "}
                <Take label="Take its kicks" onTake={() => set({ kick_beats: beats })} />
              </>
            )}
          </li>
        )}
      </ul>
    </section>
  );
}

function Take({ label, onTake }: { label: string; onTake: () => void }) {
  return (
    <Button size="sm" variant="outline-secondary" aria-label={label} onClick={onTake}>
      take
    </Button>
  );
}
