import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useLocation, useNavigate } from "react-router";
import { api, type Dropped } from "../../api/client";

/** Files that were dropped to be tried: kept with the address, measured again by a server that forgot them. */
export function useDropped() {
  const { state, pathname, search } = useLocation();
  const go = useNavigate();
  const sounds = (state as { dropped?: Dropped[] } | null)?.dropped;
  const key = sounds?.map(({ audio }) => audio).join("");
  const { isSuccess: measured } = useQuery({
    queryKey: ["dropped", key],
    queryFn: () => api.tryDropped(sounds ?? []).then(() => true),
    enabled: sounds !== undefined,
    staleTime: 0,
  });
  return {
    dropped: useMemo(() => sounds && { sounds, measured }, [sounds, measured]),
    all: () => void go(pathname + search, { replace: true, state: null }),
  };
}
