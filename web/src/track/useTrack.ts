import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { AGAIN_MS, api, isAway, Problem, type SavedTrack, type TrackState } from "../api/client";
import type { Soon } from "./first";
import { fresh, isDirty, settle, useGestures } from "./gestures";

const QUIET_MS = 350;

/** `away`: the server does not answer; what was changed is saved when it does. */
export type Saving = "saved" | "waiting" | "stale" | "failed" | "away";

export interface TrackDesk {
  track: SavedTrack;
  state: TrackState;
  saving: Saving;
  trouble: string | null;
  change: (next: (old: TrackState) => TrackState) => void;
  undo: () => void;
  redo: () => void;
  rename: (name: string) => void;
  /** Resolves when everything up to now is stored. */
  flush: () => Promise<void>;
  reload: () => void;
  /** Another section at hand: no step of undo. */
  toSection: (id: string) => void;
  /** What is asked of the server once everything up to now is stored; `then` where it is not refused. */
  ask: (
    question: (id: number, revision: number, section: string) => Promise<SavedTrack>,
    then?: () => void,
  ) => void;
}

/** The working state of a track: changed at once, stored when a gesture ends or the hand rests. */
export function useTrack(opened: SavedTrack, soon: Soon): TrackDesk {
  const queries = useQueryClient();
  const [track, setTrack] = useState(opened);
  const [state, setState] = useState(opened.state);
  const [saving, setSaving] = useState<Saving>("saved");
  const [trouble, setTrouble] = useState<string | null>(null);
  const current = useRef(fresh(opened));
  const timer = useRef<number | undefined>(undefined);
  const line = useRef<Promise<void>>(Promise.resolve());
  const id = opened.id;
  const at = useRef(opened.section);

  const take = useCallback(
    (saved: SavedTrack) => {
      current.current = fresh(saved);
      at.current = saved.section;
      setTrack(saved);
      setState(saved.state);
      setSaving("saved");
      setTrouble(null);
      queries.setQueryData(["track", id], saved);
    },
    [id, queries],
  );

  const fail = useCallback((error: unknown) => {
    const stale = error instanceof Problem && error.kind === "stale";
    setSaving(stale ? "stale" : isAway(error) ? "away" : "failed");
    setTrouble(error instanceof Error ? error.message : String(error));
  }, []);

  const store = useCallback(async () => {
    const now = current.current;
    settle(now);
    for (let sent = now.ends[0]; sent; sent = now.ends[0]) {
      const saved = await api.save(id, at.current, sent, now.revision);
      now.ends.shift();
      now.saved = sent;
      now.revision = saved.revision;
      setTrack(saved);
      setTrouble(null);
      if (now.state === sent) setSaving("saved");
      queries.setQueryData(["track", id], saved);
    }
  }, [id, queries]);

  /** One thing after another: saving, undoing, saving. */
  const inLine = useCallback(
    (work: () => Promise<void>) => {
      line.current = line.current.then(work).catch(fail);
      return line.current;
    },
    [fail],
  );

  const flush = useCallback(async () => {
    window.clearTimeout(timer.current);
    await inLine(store);
    if (isDirty(current.current)) throw new Error("Not saved yet.");
  }, [inLine, store]);

  // What is dragged is one step from where the pointer goes down to where it comes up, however long it rests.
  const held = useGestures(
    useCallback(() => {
      window.clearTimeout(timer.current);
      if (!settle(current.current)) return;
      void inLine(store);
    }, [inLine, store]),
  );

  const change = useCallback(
    (next: (old: TrackState) => TrackState) => {
      const was = current.current.state;
      const changed = next(was);
      if (changed === was) return;
      current.current.state = changed;
      soon.current?.(changed, was);
      setState(changed);
      setSaving((old) => (old === "stale" ? old : "waiting"));
      window.clearTimeout(timer.current);
      if (held.current) return;
      timer.current = window.setTimeout(() => void inLine(store), QUIET_MS);
    },
    [held, inLine, soon, store],
  );

  const step = useCallback(
    (
      move: (id: number, revision: number, section: string) => Promise<SavedTrack>,
      then?: () => void,
    ) => {
      window.clearTimeout(timer.current);
      void inLine(async () => {
        await store();
        take(await move(id, current.current.revision, at.current));
        then?.();
      });
    },
    [id, inLine, store, take],
  );

  useEffect(() => {
    if (saving !== "away") return;
    const asking = setInterval(() => {
      // Where nothing was changed meanwhile, it is enough that it answers.
      void inLine(() =>
        isDirty(current.current) ? store() : api.tracks().then(() => setSaving("saved")),
      );
    }, AGAIN_MS);
    return () => clearInterval(asking);
  }, [inLine, saving, store]);

  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (isDirty(current.current)) event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => {
      window.removeEventListener("beforeunload", leave);
      window.clearTimeout(timer.current);
      if (isDirty(current.current)) void inLine(store);
    };
  }, [inLine, store]);

  return {
    track,
    state,
    saving,
    trouble,
    change,
    undo: useCallback(() => step(api.undo), [step]),
    redo: useCallback(() => step(api.redo), [step]),
    toSection: useCallback((to: string) => step((track) => api.open(track, to)), [step]),
    ask: step,
    rename: useCallback(
      (name: string) =>
        void inLine(async () => {
          const renamed = await api.rename(id, name);
          setTrack((old) => ({ ...old, name: renamed.name }));
          await queries.invalidateQueries({ queryKey: ["tracks"] });
        }),
      [id, inLine, queries],
    ),
    flush,
    reload: useCallback(
      () => void inLine(async () => take(await api.open(id, at.current))),
      [id, inLine, take],
    ),
  };
}
