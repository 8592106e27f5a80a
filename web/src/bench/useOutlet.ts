import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import type { SavedTrack } from "../api/client";
import { judging, type Outlet } from "../api/judging";

/** So often the files of a watched folder are looked at. */
const LOOKS_MS = 2500;

/** A track’s folder beside the arranging project; what changes in it is told once, in any step. */
export function useOutlet(
  { id: track, revision }: Pick<SavedTrack, "id" | "revision">,
  say: (message: string) => void,
): Outlet | undefined {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ["outlet", track],
    queryFn: () => judging.outlet(track),
    refetchInterval: ({ state }) => (state.data?.watching ? LOOKS_MS : false),
  });
  // Which parts are made from files follows from the track.
  const named = Boolean(data?.folder);
  useEffect(() => {
    if (named) void queries.invalidateQueries({ queryKey: ["outlet", track] });
  }, [named, queries, revision, track]);
  const told = useRef(new Set<string>());
  useEffect(() => {
    for (const { name, changed, said } of data?.files ?? []) {
      const line = `${name} changed on disk: ${said}. Take it in Hand over.`;
      if (!changed) continue;
      if (!told.current.has(line)) say(line);
      told.current.add(line);
    }
  }, [data, say]);
  return data;
}
