import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useLocation } from "react-router";
import { ToggleButton } from "../../bench/ToggleButton";
import { api } from "../../api/client";
import { judging, logAddress, type LogEntry } from "../../api/judging";
import { useDesk } from "../../track/context";
import { Days } from "./Days";
import { History } from "./History";
import { VersionRow } from "./VersionRow";
import "./log.css";

/** A diary of the track: kept versions, what changed between them, notes, blind tests; any version can be heard. */
export function LogStep() {
  const { track, state, say } = useDesk();
  const queries = useQueryClient();
  const [note, setNote] = useState("");
  const [find, setFind] = useState("");
  const [starred, setStarred] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const location = useLocation();
  // Called up to keep a version: the note is what comes next.
  useEffect(() => {
    if ((location.state as { keep?: boolean } | null)?.keep) field.current?.focus();
  }, [location]);
  const wanted = useDeferredValue(find.trim());
  const versions = useInfiniteQuery({
    queryKey: ["versions", track.id, wanted, starred],
    queryFn: ({ pageParam }) => judging.versions(track.id, pageParam, wanted, starred),
    initialPageParam: null as number | null,
    getNextPageParam: ({ versions: page, more }) => (more ? (page.at(-1)?.id ?? null) : null),
    placeholderData: (old) => old,
  });
  const entries = useQuery({
    queryKey: ["entries", track.id],
    queryFn: () => judging.entries(track.id),
  });
  const [deleted, setDeleted] = useState<number | null>(null);
  const [allSteps, setAllSteps] = useState(false);
  const again = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: ["versions", track.id] }),
      queries.invalidateQueries({ queryKey: ["entries", track.id] }),
    ]);
  const failed = (error: Error) => say(error.message);
  const kept = versions.data?.pages.flatMap((page) => page.versions);
  const write = async (work: Promise<unknown>, done: string) => {
    try {
      await work;
      setNote("");
      await again();
      say(done);
    } catch (error) {
      say((error as Error).message);
    }
  };
  // Lines that are older than what is listed come with it.
  const oldest = versions.hasNextPage ? (kept?.at(-1)?.made_at ?? "") : "";
  const matches = (entry: LogEntry) =>
    !starred && entry.made_at >= oldest && entry.note.toLowerCase().includes(wanted.toLowerCase());
  const lines = [
    ...(kept ?? []).map((version, n) => ({ at: version.made_at, version, before: kept?.[n + 1] })),
    ...(entries.data ?? []).filter(matches).map((entry) => ({ at: entry.made_at, entry })),
  ].sort((a, b) => (a.at < b.at ? 1 : -1));
  return (
    <div className="step-body">
      <Form
        className="keep"
        onSubmit={(event) => {
          event.preventDefault();
          void write(api.keep(track.id, track.section, state, note), "Kept.");
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
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={note.trim() === ""}
          title="With its time, tied to the track as it is now"
          onClick={() => void write(judging.addEntry(track.id, "note", note), "Noted.")}
        >
          Add a note only
        </Button>
      </Form>
      <div className="log-find">
        <Form.Control
          size="sm"
          aria-label="Find in the log"
          placeholder="find: a word of a note, a tag, what changed"
          value={find}
          maxLength={200}
          onChange={(event) => setFind(event.target.value)}
        />
        <ToggleButton
          id="log-starred"
          type="checkbox"
          size="sm"
          variant="outline-secondary"
          value="1"
          checked={starred}
          onChange={() => setStarred(!starred)}
        >
          ★ sent out
        </ToggleButton>
        <a className="btn btn-sm btn-outline-secondary" href={logAddress(track.id)} download>
          Save the log
        </a>
      </div>
      {versions.error && <p role="alert">{versions.error.message}</p>}
      {kept && lines.length === 0 && (
        <p className="calm">
          {wanted || starred
            ? "Nothing in the log fits."
            : "Nothing kept yet. Every change is saved as you go; a kept version is one you can always come back to, with its numbers."}
        </p>
      )}
      <ol className="versions log-lines" aria-label="Kept versions">
        {lines.map((line) =>
          "version" in line ? (
            <VersionRow
              key={`version ${line.version.id}`}
              version={line.version}
              before={wanted || starred ? undefined : line.before}
              onChanged={again}
              onDelete={() =>
                void api.deleteVersion(track.id, line.version.id).then(async () => {
                  setDeleted(line.version.id);
                  await again();
                }, failed)
              }
            />
          ) : (
            <Line
              key={`entry ${line.entry.id}`}
              entry={line.entry}
              onDelete={() => void judging.dropEntry(track.id, line.entry.id).then(again, failed)}
            />
          ),
        )}
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
      <Days />
      <History all={allSteps} onAll={() => setAllSteps(true)} />
    </div>
  );
}

/** A note, a blind test or a hand-over. */
function Line({ entry, onDelete }: { entry: LogEntry; onDelete: () => void }) {
  const { ask, say, track } = useDesk();
  const { revision } = entry;
  return (
    <li>
      <time dateTime={entry.made_at}>{new Date(entry.made_at).toLocaleString()}</time>
      <div className="version-said">{entry.note}</div>
      <span className="acts">
        {revision !== null && revision !== track.revision && (
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Go to the track as it was at ${entry.note}`}
            onClick={() => {
              ask(
                (id, based_on, section) => api.goTo(id, revision, based_on, section),
                () => say("Here is the track as it was then. Nothing after it is lost."),
              );
            }}
          >
            go to
          </Button>
        )}
        <Button
          size="sm"
          variant="outline-secondary"
          aria-label={`Delete the line ${entry.note}`}
          onClick={onDelete}
        >
          delete
        </Button>
      </span>
    </li>
  );
}
