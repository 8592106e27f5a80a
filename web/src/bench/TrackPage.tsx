import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Navigate, NavLink, useParams } from "react-router";
import { api, type SavedTrack } from "../api/client";
import { isStep } from "../steps/steps";
import { Bench } from "./Bench";
import { rememberTrack } from "../start/Start";

/** One track, at one step. */
export function TrackPage() {
  const { id, step } = useParams();
  const number = Number(id);
  const opened = useQuery({
    queryKey: ["track", number],
    queryFn: () => api.open(number),
    staleTime: 0,
    gcTime: 0,
  });
  const controls = useQuery({ queryKey: ["controls"], queryFn: api.controls, staleTime: Infinity });
  const facts = useQuery({
    queryKey: ["first facts", number],
    queryFn: () => api.facts((opened.data as SavedTrack).state.brief),
    enabled: opened.data !== undefined,
    staleTime: Infinity,
    gcTime: 0,
  });
  useEffect(() => {
    if (opened.data) rememberTrack(opened.data.id);
  }, [opened.data]);
  const error = opened.error ?? controls.error ?? facts.error;
  if (error)
    return (
      <main className="start">
        <h1>Juglant</h1>
        <p role="alert">{error.message}</p>
        <NavLink to="/">To the tracks</NavLink>
      </main>
    );
  if (!isStep(step)) return <Navigate to={`/tracks/${id}/hits`} replace />;
  if (!opened.data || !controls.data || !facts.data) return null;
  return (
    <Bench
      key={opened.data.id}
      opened={opened.data}
      controls={controls.data}
      firstFacts={facts.data}
      step={step}
    />
  );
}
