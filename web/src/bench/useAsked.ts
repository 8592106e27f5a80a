import { useCallback, useState } from "react";
import type { JobView } from "../api/client";
import { useDesk } from "../track/context";
import { useJobs } from "./useJobs";
import { useStay } from "./useStay";

/** What is asked of the server and takes seconds: how far it is, and what came of it for what it was asked of. */
export function useAsked<V, O>(fetched: (job: number) => Promise<V>, tellEnd = true) {
  const { say } = useDesk();
  const [asked, setAsked] = useState<{ job: number; of: O } | null>(null);
  const [found, setFound] = useState<{ view: V; of: O; job: number } | null>(null);
  const ended = useCallback(
    (job: JobView) => {
      if (job.id !== asked?.job) return;
      const { of } = asked;
      setAsked(null);
      if (tellEnd || job.state !== "done") say(job.said);
      if (job.state === "done")
        fetched(job.id)
          .then((view) => setFound({ view, of, job: job.id }))
          .catch((error: Error) => say(error.message));
    },
    [asked, fetched, say, tellEnd],
  );
  const { jobs, look } = useJobs(ended);
  return {
    busy: asked !== null,
    job: jobs.find(({ id }) => id === asked?.job),
    found,
    drop: useCallback(() => setFound(null), []),
    begin: (question: Promise<JobView>, of: O) => {
      setFound(null);
      question
        .then((job) => {
          setAsked({ job: job.id, of });
          look(job);
        })
        .catch((error: Error) => say(error.message));
    },
    // What was pressed is gone with every stage: the keyboard stays here.
    box: useStay<HTMLDivElement>(asked ? "asked" : found ? "found" : "none"),
  };
}
