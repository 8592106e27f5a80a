import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, type JobView } from "../api/client";

/** So often it is asked how far work is. */
const ASKS_MS = 500;
const runs = (job: JobView) => job.state === "running" || job.state === "waiting";

export interface Running {
  jobs: JobView[];
  /** Look again, after something was begun. */
  look: () => void;
}

/** The server's jobs; `ended` is told when one is over. */
export function useJobs(ended: (job: JobView) => void): Running {
  const queries = useQueryClient();
  const { data = [] } = useQuery({
    queryKey: ["jobs"],
    queryFn: api.jobs,
    refetchInterval: ({ state }) => ((state.data ?? []).some(runs) ? ASKS_MS : false),
  });
  const at = useRef(new Set<number>());
  useEffect(() => {
    for (const job of data) {
      if (runs(job)) at.current.add(job.id);
      else if (at.current.delete(job.id)) ended(job);
    }
  }, [data, ended]);
  return { jobs: data, look: () => void queries.invalidateQueries({ queryKey: ["jobs"] }) };
}
