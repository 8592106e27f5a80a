import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Brief, type Hit, type Reference } from "../../api/client";
import { MOST_BARS } from "../../api/limits";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";
import { editHit, hitsOf, kickOf } from "../../track/parts";

const sure = (confidence: number) => `${Math.round(100 * confidence)} % sure`;

const LANES = ["kick", "snare", "hat"] as const;
type Lane = (typeof LANES)[number];

/** Which of a track's hits a lane's strokes belong to. */
const kindsOf = (lane: Lane) => (lane === "snare" ? ["snare", "clap"] : [lane as string]);

/** A lane as strokes of a pattern, on the nearest sixteenths, as hard as they were struck. */
function strokes(found: Reference, lane: Lane): Pick<Hit, "steps" | "bars"> {
  const inside = found.hits.filter((hit) => hit.kinds.includes(lane) && hit.bar <= MOST_BARS);
  const places = new Map(
    inside.map(({ bar, beat, velocities }) => [4 * (bar - 1) + beat - 1, velocities[lane] ?? 1]),
  );
  const steps = [...places].sort(([a], [b]) => a - b).map(([at, velocity]) => ({ at, velocity }));
  return { steps, bars: Math.max(1, ...inside.map(({ bar }) => bar)) };
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
  const { shown, change } = useDesk();
  // The first hit is the kick, whatever else is one.
  const owner = (lane: Lane) =>
    lane === "kick"
      ? kickOf(shown)
      : hitsOf(shown)
          .slice(1)
          .find(({ kind }) => kindsOf(lane).includes(kind));
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
              {found.other_bpm.map((bpm) => (
                <span key={bpm} className="lane">
                  {" "}
                  or {bpm.toFixed(1)}{" "}
                  <Take
                    label={`Take the tempo ${bpm.toFixed(2)}`}
                    onTake={() => set({ bpm: Math.round(100 * bpm) / 100 })}
                  />
                </span>
              ))}
            </>
          ) : (
            `No tempo: ${found.reasons["bpm"] ?? ""}.`
          )}
        </li>
        {found.bpm !== null && (
          <li>
            Strokes:{" "}
            {LANES.map((lane) => {
              const count = found.hits.filter((hit) => hit.kinds.includes(lane)).length;
              const hit = owner(lane);
              return (
                <span key={lane} className="lane">
                  {count} {lane}
                  {count > 0 && hit && (
                    <>
                      {" "}
                      <Take
                        label={`Take its strokes for ${hit.name}`}
                        onTake={() =>
                          change(editHit(hit.id, (old) => ({ ...old, ...strokes(found, lane) })))
                        }
                      />
                    </>
                  )}{" "}
                </span>
              );
            })}
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
