import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Navigate, useNavigate, useSearchParams } from "react-router";
import { api } from "../api/client";

const LAST = "juglant-last-track";

/** Opens the track that was open last; where there is none yet, says how to begin. */
export function Start() {
  const tracks = useQuery({ queryKey: ["tracks"], queryFn: api.tracks });
  const [search] = useSearchParams();
  const queries = useQueryClient();
  const go = useNavigate();
  const [name, setName] = useState("");
  const create = useMutation({
    mutationFn: api.create,
    onSuccess: async (track) => {
      await queries.invalidateQueries({ queryKey: ["tracks"] });
      await go(`/tracks/${track.id}/brief`);
    },
  });
  if (tracks.error) return <main className="start">{tracks.error.message}</main>;
  if (!tracks.data) return null;
  const last = Number(localStorage.getItem(LAST));
  const open = tracks.data.find((track) => track.id === last) ?? tracks.data[0];
  if (open && !search.has("new") && create.isIdle)
    return <Navigate to={`/tracks/${open.id}/hits`} replace />;
  return (
    <main className="start">
      <h1>Juglant</h1>
      <p>
        Kick, bass and the low end of a track: in tune, apart, and ducked in time. Name a track to
        begin: it opens with a kick and a bass to change, or to replace by your own files.
      </p>
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) create.mutate(name);
        }}
      >
        <Form.Control
          autoFocus
          aria-label="Name of the track"
          placeholder="Name of the track"
          value={name}
          maxLength={100}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={!name.trim() || create.isPending}>
          Start a track
        </Button>
      </Form>
      {create.error && <p role="alert">{create.error.message}</p>}
      <p className="why">
        To look around first, stop the server and run <code>make demo</code>: three invented tracks
        with something to find in each.
      </p>
    </main>
  );
}

export const rememberTrack = (id: number) => localStorage.setItem(LAST, String(id));
