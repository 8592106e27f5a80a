import { Button, ProgressBar } from "react-bootstrap";
import { api, type JobView } from "../api/client";

/** How far work is that was asked for, and a way to stop it. */
export function Working({ job }: { job: JobView | undefined }) {
  return (
    <>
      <ProgressBar now={job?.done ?? 0} max={job?.total || 100} aria-label="How far it is" />
      <Button
        size="sm"
        variant="outline-secondary"
        disabled={!job}
        onClick={() => job && void api.stopJob(job.id)}
      >
        Cancel
      </Button>
    </>
  );
}
