import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Navigate, useNavigate, useSearchParams } from "react-router";
import { api, type SavedTrack } from "../api/client";
import { Begin } from "./Begin";
import { TrackList } from "./TrackList";
import "./start.css";

const LAST = "juglant-last-track";

/** Opens the track that was open last; asked for all of them, or where there is none, shows where to begin. */
export function Start() {
  const tracks = useQuery({ queryKey: ["tracks"], queryFn: api.tracks });
  const [search] = useSearchParams();
  const queries = useQueryClient();
  const go = useNavigate();
  const [told, setTold] = useState<string | null>(null);
  const [begun, setBegun] = useState(false);
  if (tracks.error) return <main className="start">{tracks.error.message}</main>;
  if (!tracks.data) return null;
  const last = Number(localStorage.getItem(LAST));
  const open = tracks.data.find((track) => track.id === last) ?? tracks.data[0];
  if (open && !search.has("tracks") && !begun)
    return <Navigate to={`/tracks/${open.id}/hits`} replace />;
  const begin = (making: Promise<SavedTrack>, step: string) => {
    setBegun(true);
    void making
      .then(async (track) => {
        await queries.invalidateQueries({ queryKey: ["tracks"] });
        await go(`/tracks/${track.id}/${step}`);
      })
      .catch((error: Error) => {
        setBegun(false);
        setTold(error.message);
      });
  };
  return (
    <main className="start">
      <h1>Juglant</h1>
      <p className="lead">
        Kick, bass and the low end of a track: in tune, apart, and ducked in time.
      </p>
      {told && <p role="alert">{told}</p>}
      <div className="start-columns">
        <Begin onBegin={begin} />
        <TrackList tracks={tracks.data} onCopy={(making) => begin(making, "hits")} />
      </div>
    </main>
  );
}

export const rememberTrack = (id: number) => localStorage.setItem(LAST, String(id));
