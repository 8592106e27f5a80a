import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Button, Form, ProgressBar } from "react-bootstrap";
import { api, type JobView } from "../../api/client";
import { useDesk } from "../../track/context";
import { useJobs } from "../../bench/useJobs";

/** How far a scan is, in words. */
export function toldOf({ state, done, total, rate, left_s }: JobView): string {
  if (state === "waiting") return `waiting at ${done} of ${total}`;
  if (total === 0) return "looking for what is new";
  const left =
    left_s === null
      ? ""
      : left_s < 90
        ? `, ${left_s.toFixed(0)} s left`
        : `, ${(left_s / 60).toFixed(0)} min left`;
  return `${done} of ${total}${rate >= 1 ? `, ${rate.toFixed(0)} a second` : ""}${left}`;
}

/** The folders of the stock: added, looked through, and what cannot be read in them. `adding`: whoever came
 *  to add one is at its path already. */
export function Folders({ adding }: { adding: boolean }) {
  const { say } = useDesk();
  const queries = useQueryClient();
  const [path, setPath] = useState("");
  const told = useQuery({ queryKey: ["stock"], queryFn: api.stock });
  const ended = useCallback(
    (job: JobView) => {
      say(job.said);
      void queries.invalidateQueries({ queryKey: ["stock"] });
    },
    [queries, say],
  );
  const { folders = [], troubles = [] } = told.data ?? {};
  // What changes in a watched folder begins a scan of itself.
  const { jobs, look } = useJobs(
    ended,
    folders.some(({ watched }) => watched),
  );
  const scan = jobs.find(
    ({ sort, state }) => sort === "scan" && (state === "running" || state === "waiting"),
  );
  const failed = (error: Error) => say(error.message);
  const begun = (making: Promise<JobView | void>) =>
    making
      .then((job) => {
        look(job ?? undefined);
        void queries.invalidateQueries({ queryKey: ["stock"] });
      })
      .catch(failed);
  return (
    <section className="stock-folders" aria-label="Folders">
      <Form
        className="stock-add"
        onSubmit={(event) => {
          event.preventDefault();
          const added = (job: JobView) => {
            setPath("");
            return job;
          };
          if (path.trim()) void begun(api.addFolder(path).then(added));
        }}
      >
        <Form.Control
          size="sm"
          aria-label="Path of a folder"
          autoFocus={adding}
          placeholder="/home/me/Samples"
          value={path}
          onChange={(event) => setPath(event.target.value)}
        />
        <Button size="sm" type="submit" variant="outline-primary" disabled={!path.trim()}>
          Add folder
        </Button>
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={folders.length === 0 || scan !== undefined}
          onClick={() => void begun(api.scanStock())}
        >
          Look again
        </Button>
      </Form>
      {scan && (
        <div className="stock-scan" role="group" aria-label="Scan">
          <ProgressBar
            now={scan.total > 0 ? (100 * scan.done) / scan.total : 0}
            aria-label="How far it is"
          />
          <span>{toldOf(scan)}</span>
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() => void begun(api.waitJob(scan.id))}
          >
            {scan.state === "waiting" ? "Go on" : "Pause"}
          </Button>
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() => void begun(api.stopJob(scan.id))}
          >
            Cancel
          </Button>
        </div>
      )}
      <ul>
        {folders.map((folder) => (
          <li key={folder.id}>
            <span title={folder.path}>{folder.path}</span>
            <span>
              {folder.away ? "away, kept" : `${folder.sounds} sounds`}
              {folder.troubled > 0 && `, ${folder.troubled} cannot be read`}
            </span>
            <Button
              size="sm"
              variant={folder.watched ? "secondary" : "outline-secondary"}
              aria-pressed={folder.watched}
              aria-label={`Watch ${folder.path}`}
              title="What is new or changed in it is measured by itself"
              onClick={() => void begun(api.watchFolder(folder.id, !folder.watched))}
            >
              watch
            </Button>
            <Button
              size="sm"
              variant="outline-secondary"
              aria-label={`Forget ${folder.path}`}
              title="Leaves it out of the stock; nothing in it is touched"
              onClick={() => void begun(api.forgetFolder(folder.id))}
            >
              forget
            </Button>
          </li>
        ))}
      </ul>
      {folders.length === 0 && told.data && (
        <p className="calm">
          Folders of your own samples stay where they are and are only read. What is in them is
          measured once: then the sounds that fit this track can be found.
        </p>
      )}
      {troubles.length > 0 && (
        <details>
          <summary>{troubles.length} files cannot be read</summary>
          <ul className="troubles">
            {troubles.map(({ path: where, trouble }) => (
              <li key={where}>
                {where}: {trouble}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
