import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useLocation } from "react-router";
import { api, type HitNumbers, type KeptVersion, type Overlap } from "../../api/client";
import { cents, maybe, millis } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { mainDucking } from "../../track/parts";

/** Kept versions, their numbers and notes; each can be brought back. */
export function LogStep() {
  const { track, state, ask, say } = useDesk();
  const queries = useQueryClient();
  const [note, setNote] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const location = useLocation();
  // Called up to keep a version: the note is what comes next.
  useEffect(() => {
    if ((location.state as { keep?: boolean } | null)?.keep) field.current?.focus();
  }, [location]);
  const versions = useQuery({
    queryKey: ["versions", track.id],
    queryFn: () => api.versions(track.id),
  });
  const keep = async () => {
    try {
      await api.keep(track.id, track.section, state, note);
      setNote("");
      await queries.invalidateQueries({ queryKey: ["versions", track.id] });
      say("Kept.");
    } catch (error) {
      say((error as Error).message);
    }
  };
  return (
    <div className="step-body">
      <Form
        className="keep"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Form.Control
          size="sm"
          ref={field}
          aria-label="Note for this version"
          placeholder="What did you do, and why? In a month you will not know."
          value={note}
          maxLength={2000}
          onChange={(event) => setNote(event.target.value)}
        />
        <Button size="sm" type="submit">
          Keep this version
        </Button>
      </Form>
      {versions.error && <p role="alert">{versions.error.message}</p>}
      {versions.data?.length === 0 && (
        <p className="calm">
          Nothing kept yet. Every change is saved as you go; a kept version is one you can always
          come back to, with its numbers.
        </p>
      )}
      <ol className="versions" aria-label="Kept versions">
        {versions.data?.map((version) => (
          <li key={version.id}>
            <time dateTime={version.made_at}>{new Date(version.made_at).toLocaleString()}</time>
            <b>{version.note || "no note"}</b>
            <span className="why">{summary(version)}</span>
            <Button
              size="sm"
              variant="outline-primary"
              aria-label={`Bring back ${version.note || "this version"}`}
              onClick={() => {
                ask((id, revision) => api.bringBack(id, version.id, revision));
                say("Brought back. Undo returns to where you were.");
                void api
                  .asKept(track.id, version.id)
                  .then(
                    ({ same, apart_db }) =>
                      same === false &&
                      say(
                        `Brought back, but it sounds different from when it was kept: up to ${(apart_db ?? 0).toFixed(1)} dB. The engine has changed since.`,
                      ),
                  )
                  .catch((error: Error) => say(error.message));
              }}
            >
              Bring back
            </Button>
          </li>
        ))}
      </ol>
    </div>
  );
}

function summary(version: KeptVersion): string {
  const { hit, after } = version.numbers as { hit: HitNumbers; after: Overlap; lufs: number };
  const { brief } = version.state;
  const { duck, on: ducking } = mainDucking(version.state);
  return [
    `${brief.tonic} ${brief.mode}, ${brief.bpm} BPM`,
    `kick ${hit.note ?? "without pitch"} ${maybe(hit.cents, cents)}`,
    `collision ${maybe(after.collision_ms, millis)}`,
    ducking ? `ducked ${duck.depth_db} dB` : "not ducked",
  ].join(" · ");
}
