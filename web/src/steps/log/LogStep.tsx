import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useLocation } from "react-router";
import { api, rawAddress } from "../../api/client";
import { useDesk } from "../../track/context";
import { History } from "./History";

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
  const versions = useInfiniteQuery({
    queryKey: ["versions", track.id],
    queryFn: ({ pageParam }) => api.versions(track.id, pageParam),
    initialPageParam: null as number | null,
    getNextPageParam: ({ versions: page, more }) => (more ? (page.at(-1)?.id ?? null) : null),
  });
  const [deleted, setDeleted] = useState<number | null>(null);
  const [allSteps, setAllSteps] = useState(false);
  const again = () => queries.invalidateQueries({ queryKey: ["versions", track.id] });
  const failed = (error: Error) => say(error.message);
  const kept = versions.data?.pages.flatMap((page) => page.versions);
  const keep = async () => {
    try {
      await api.keep(track.id, track.section, state, note);
      setNote("");
      await again();
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
      {kept?.length === 0 && (
        <p className="calm">
          Nothing kept yet. Every change is saved as you go; a kept version is one you can always
          come back to, with its numbers.
        </p>
      )}
      <ol className="versions" aria-label="Kept versions">
        {kept?.map((version) => (
          <li key={version.id}>
            <time dateTime={version.made_at}>{new Date(version.made_at).toLocaleString()}</time>
            <b>{version.note || "no note"}</b>
            <span className="why">{version.said ?? version.trouble}</span>
            <span className="acts">
              {version.trouble ? (
                <a
                  className="btn btn-sm btn-outline-secondary"
                  href={rawAddress(track.id, version.id)}
                  download
                >
                  Save as it is
                </a>
              ) : (
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
              )}
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Delete ${version.note || "this version"}`}
                onClick={() =>
                  void api.deleteVersion(track.id, version.id).then(async () => {
                    setDeleted(version.id);
                    await again();
                  }, failed)
                }
              >
                delete
              </Button>
            </span>
          </li>
        ))}
      </ol>
      {deleted !== null && (
        <p role="status">
          The version is deleted.{" "}
          <Button
            size="sm"
            autoFocus
            variant="outline-secondary"
            onClick={() =>
              void api.undeleteVersion(track.id, deleted).then(async () => {
                setDeleted(null);
                await again();
              }, failed)
            }
          >
            Bring the version back
          </Button>
        </p>
      )}
      {versions.hasNextPage && (
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={versions.isFetchingNextPage}
          onClick={() => void versions.fetchNextPage()}
        >
          Older versions
        </Button>
      )}
      <History all={allSteps} onAll={() => setAllSteps(true)} />
    </div>
  );
}
