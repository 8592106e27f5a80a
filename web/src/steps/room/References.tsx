import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { Finding, JobView, TrackState } from "../../api/client";
import { judging, type ReferenceView } from "../../api/judging";
import { decibels, maybe, millis, signed } from "../../bench/scale";
import { useJobs } from "../../bench/useJobs";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";
import { ThirdOctaves } from "./ThirdOctaves";

/** So many differences are shown at first. */
const SHORT = 6;

interface Question {
  state: TrackState;
  references: number[];
}
const ask = (question: Question) => judging.against(question);
const clock = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

/** Seconds of “1:30” or “90”; null for what is neither. */
const secondsOf = (text: string): number | null => {
  const found = /^(?:(\d{1,2}):)?(\d{1,3}(?:\.\d+)?)$/.exec(text.trim());
  return found ? 60 * Number(found[1] ?? 0) + Number(found[2]) : null;
};

/** Records that work, beside the track: what is different, the largest first, and ways to get nearer. */
export function References() {
  const { track, state, say, compare, listening } = useDesk();
  const queries = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const key = useMemo(() => ["references", track.id], [track.id]);
  const references = useQuery({ queryKey: key, queryFn: () => judging.references(track.id) });
  const [fromText, setFromText] = useState("");
  const from = secondsOf(fromText);
  const wrong = fromText.trim() && from === null ? "Type minutes and seconds, as 1:30." : null;
  const [begun, setBegun] = useState<number | null>(null);
  const ended = useCallback(
    (job: JobView) => {
      if (job.id !== begun) return;
      setBegun(null);
      say(job.said);
      void queries.invalidateQueries({ queryKey: key });
    },
    [begun, key, queries, say],
  );
  const { jobs, look } = useJobs(ended);
  const job = jobs.find(({ id }) => id === begun);
  const [left, leave] = useState<number[]>([]);
  const all = references.data ?? [];
  const used = all.filter(({ id }) => !left.includes(id)).map(({ id }) => id);
  const usedText = used.join();
  const found = useLatest(
    useMemo(
      () => (usedText ? { state, references: usedText.split(",").map(Number) } : null),
      [state, usedText],
    ),
    ask,
  );
  const hear = (record: ReferenceView) => {
    compare.begin({ label: record.name, record });
    listening.start();
  };
  return (
    <div className="references">
      <div className="room-head">
        <Button
          size="sm"
          disabled={begun !== null || wrong !== null}
          onClick={() => file.current?.click()}
          title="Its fullest half minute is measured and played, never handed over"
        >
          + record from a file…
        </Button>
        <label className="room-from">
          from
          <Form.Control
            size="sm"
            aria-label="Where in the record, minutes and seconds"
            placeholder="fullest"
            value={fromText}
            onChange={(event) => setFromText(event.target.value)}
          />
        </label>
        {wrong && <span role="alert">{wrong}</span>}
        {begun !== null && (
          <>
            <span role="status">{job?.name ?? "Measuring"}…</span>
            <Working job={job} />
          </>
        )}
        <input
          ref={file}
          type="file"
          hidden
          aria-label="A record from a file"
          onChange={(event) => {
            const [chosen] = event.target.files ?? [];
            event.target.value = "";
            if (!chosen) return;
            judging
              .addReference(track.id, chosen, from)
              .then((begun) => {
                setBegun(begun.id);
                look(begun);
              })
              .catch((error: Error) => say(error.message));
          }}
        />
      </div>
      {references.data?.length === 0 && begun === null && (
        <p className="calm">
          Bring in a record whose low end works, of up to 15 minutes. Its fullest passage is looked
          for, measured beside the track, and heard against it at the same loudness.
        </p>
      )}
      {all.length > 0 && (
        <table className="values room-records">
          <thead>
            <tr>
              <th scope="col">record</th>
              <th scope="col">from</th>
              <th scope="col">tempo, key</th>
              <th scope="col">kick</th>
              <th scope="col">kick over bass</th>
              <th scope="col">ducked, back after</th>
              <th scope="col">crest, loudness</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {all.map((one) => (
              <tr key={one.id}>
                <th scope="row">
                  <label>
                    <input
                      type="checkbox"
                      checked={!left.includes(one.id)}
                      onChange={() =>
                        leave((old) =>
                          old.includes(one.id)
                            ? old.filter((id) => id !== one.id)
                            : [...old, one.id],
                        )
                      }
                    />{" "}
                    {one.name}
                  </label>
                </th>
                <td>{clock(one.from_s)}</td>
                <td>
                  {maybe(one.record.bpm, (bpm) => bpm.toFixed(1))}
                  {one.record.key && `, ${one.record.key}`}
                </td>
                <td>{maybe(one.record.kick_length_ms, millis)}</td>
                <td>{maybe(one.record.kick_over_bass_db, decibels)}</td>
                <td>
                  {maybe(one.record.ducking_depth_db, decibels)}
                  {one.record.ducking_return_ms !== null &&
                    `, ${millis(one.record.ducking_return_ms)}`}
                </td>
                <td>
                  {decibels(one.record.crest_db)}, {signed(one.record.lufs, 0)} LUFS
                </td>
                <td className="acts">
                  <Button
                    size="sm"
                    variant="outline-secondary"
                    aria-label={`Hear ${one.name} against the track`}
                    onClick={() => hear(one)}
                  >
                    Hear
                  </Button>
                  <Button
                    size="sm"
                    variant="outline-secondary"
                    aria-label={`Remove ${one.name}`}
                    onClick={() =>
                      void judging
                        .dropReference(one.id)
                        .then(() => queries.invalidateQueries({ queryKey: key }))
                        .catch((error: Error) => say(error.message))
                    }
                  >
                    ×
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {found.error && <p role="alert">{found.error.message}</p>}
      {used.length > 0 && found.data && (
        <div className={found.stale ? "dim" : ""}>
          <ThirdOctaves
            track={found.data.track}
            records={all.filter(({ id }) => used.includes(id)).map(({ record }) => record)}
          />
          <Differences differences={found.data.differences} used={used} />
        </div>
      )}
    </div>
  );
}

function Differences({ differences, used }: { differences: Finding[]; used: number[] }) {
  const { state, startTrial, say, listening } = useDesk();
  const [all, setAll] = useState(false);
  const [trying, setTrying] = useState<string | null>(null);
  const shown = all ? differences : differences.slice(0, SHORT);
  const bring = (finding: Finding) => {
    setTrying(finding.id);
    judging
      .nearer(state, used, finding.measure)
      .then((effect) => {
        const label = finding.fixes["nearer"] ?? "";
        startTrial({ finding, label, effect, hearing: true });
        listening.start();
      })
      .catch((error: Error) => say(error.message))
      .finally(() => setTrying(null));
  };
  if (differences.length === 0)
    return <p className="calm">No audible difference in the low end.</p>;
  return (
    <>
      <ol className="room-differences" aria-label="Differences, the largest first">
        {shown.map((one) => (
          <li key={one.id}>
            <span>{one.sentence}</span>
            {one.fixes["nearer"] && (
              <Button
                size="sm"
                variant="outline-primary"
                disabled={trying !== null}
                onClick={() => bring(one)}
              >
                {trying === one.id ? "Trying…" : `${one.fixes["nearer"]}…`}
              </Button>
            )}
          </li>
        ))}
      </ol>
      {!all && differences.length > SHORT && (
        <Button size="sm" variant="outline-secondary" onClick={() => setAll(true)}>
          All {differences.length}
        </Button>
      )}
    </>
  );
}
