import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, type JobView } from "../api/client";

/** So often it is asked how far work is. */
const ASKS_MS = 500;
const runs = (job: JobView) => job.state === "running" || job.state === "waiting";

export interface Running {
  jobs: JobView[];
  /** Look again; work begun just now is told of however soon it is over. */
  look: (begun?: JobView) => void;
}

/** The server's jobs; `ended` is told when one is over. Some may begin by themselves: then it is asked anyway. */
export function useJobs(ended: (job: JobView) => void, unasked = false): Running {
  const queries = useQueryClient();
  const { data = [] } = useQuery({
    queryKey: ["jobs"],
    queryFn: api.jobs,
    refetchInterval: ({ state }) =>
      (state.data ?? []).some(runs) ? ASKS_MS : unasked ? 10 * ASKS_MS : false,
  });
  const at = useRef(new Set<number>());
  const told = useRef(new Set<number>());
  const newest = useRef<number | null>(null);
  useEffect(() => {
    const before = newest.current;
    for (const job of data) {
      if (runs(job)) at.current.add(job.id);
      if (runs(job) || told.current.has(job.id)) continue;
      // One that began by itself may be over before it was asked for.
      if (at.current.has(job.id) || (unasked && before !== null && job.id > before)) {
        told.current.add(job.id);
        ended(job);
      }
    }
    newest.current = Math.max(before ?? 0, ...data.map(({ id }) => id));
  }, [data, ended, unasked]);
  const look = (begun?: JobView) => {
    // It may be over before the first look: then it was never seen at work.
    if (begun) at.current.add(begun.id);
    void queries.invalidateQueries({ queryKey: ["jobs"] });
  };
  return { jobs: data, look };
}
