import type { Chord, Ducking, Hit, Outputs, Stem, TrackState, Voice } from "../api/client";
import { MOST_PARTS } from "../api/limits";

export type Edit = (old: TrackState) => TrackState;
/** A part of its own. */
export type OwnPart = TrackState["parts"][number];
/** A part, or the sum of all of them. */
export type Part = OwnPart | TrackState["sum"];

/** An id that was never used. */
export const newId = () => crypto.randomUUID();

const of =
  <P extends OwnPart>(kind: P["part"]) =>
  (state: TrackState): P[] =>
    state.parts.filter((part): part is P => part.part === kind);

/** The kick first, then the other hits. */
export const hitsOf = of<Hit>("hit");
/** Every line, the bass first. */
export const voicesOf = of<Voice>("line");
export const stemsOf = of<Stem>("stem");
export const chordsOf = of<Chord>("chord");
export const outputsOf = of<Outputs>("outputs");

/** A part, and those that it takes outputs of. */
export const madeFrom = (state: TrackState, id: string): Set<string> => {
  const made = outputsOf(state).find((part) => part.id === id);
  return new Set([id, ...(made?.sources.flatMap(({ of }) => [...madeFrom(state, of)]) ?? [])]);
};

export const kickOf = (state: TrackState) => hitsOf(state)[0] as Hit;

/** Every part, and the sum of them. */
export const everything = (state: TrackState): Part[] => [...state.parts, state.sum];

export const partOf = (state: TrackState, id: string): Part | undefined =>
  everything(state).find((part) => part.id === id);

/** What a part is called. */
export const nameOf = (state: TrackState, id: string) => partOf(state, id)?.name ?? id;

/** The hit, or the line, of an id; the first one where there is none. */
export const hitOf = (state: TrackState, id: string) =>
  hitsOf(state).find((hit) => hit.id === id) ?? kickOf(state);
export const voiceOf = (state: TrackState, id: string) =>
  voicesOf(state).find((voice) => voice.id === id) ?? (voicesOf(state)[0] as Voice);

const edit =
  <P extends OwnPart>(kind: P["part"]) =>
  (id: string, change: (old: P) => P): Edit =>
  (old) => ({
    ...old,
    parts: old.parts.map((part) =>
      part.id === id && part.part === kind ? change(part as P) : part,
    ),
  });

/** One part changed; another kind of part under that id stays as it is. */
export const editHit = edit<Hit>("hit");
export const editVoice = edit<Voice>("line");
export const editStem = edit<Stem>("stem");
export const editOutputs = edit<Outputs>("outputs");

/** What every kind of part has, changed. */
export const editPart =
  (
    id: string,
    changes: Partial<Pick<Part, "place" | "stages" | "after" | "moves" | "mute">>,
  ): Edit =>
  (old) => ({
    ...old,
    ...(id === old.sum.id && { sum: { ...old.sum, ...changes } as TrackState["sum"] }),
    parts: old.parts.map((part) => (part.id === id ? ({ ...part, ...changes } as OwnPart) : part)),
  });

/** A part under another name. */
export const renamed =
  (id: string, name: string): Edit =>
  (old) => ({
    ...old,
    parts: old.parts.map((part) => (part.id === id ? { ...part, name } : part)),
  });

/** A part more. A new line starts as a target of the ducking by the kick. */
export const withPart =
  (part: OwnPart): Edit =>
  (old) => {
    if (old.parts.length >= MOST_PARTS) return old;
    const [first, ...others] = old.duckings;
    const more = { part: part.id, share: 1 };
    const duckings =
      first && part.part === "line"
        ? [{ ...first, targets: [...first.targets, more] }, ...others]
        : old.duckings;
    return { ...old, parts: [...old.parts, part], duckings };
  };

/** A part less, with what duckings and outputs have of it; one that nothing starts any more stays, off. */
export const withoutPart =
  (id: string): Edit =>
  (old) => ({
    ...old,
    parts: old.parts
      .filter((part) => part.id !== id)
      .map((part) =>
        part.part === "outputs"
          ? { ...part, sources: part.sources.filter(({ of }) => of !== id) }
          : part,
      ),
    duckings: old.duckings.map((one) => without(one, id)),
  });

function without(one: Ducking, id: string): Ducking {
  const triggers = one.triggers.filter((trigger) => trigger !== id);
  const targets = one.targets.filter(({ part }) => part !== id);
  const starts = triggers.length > 0 || one.rate !== "none";
  return { ...one, triggers, targets, on: one.on && starts };
}

/** A name that no other part of the track has. */
export function freeName(state: TrackState, wish: string, own?: string): string {
  const others = state.parts.filter(({ id }) => id !== own);
  const taken = new Set(others.map(({ name }) => name.toLowerCase()));
  const names = [wish, ...Array.from({ length: MOST_PARTS }, (_, n) => `${wish} ${n + 2}`)];
  return names.find((name) => !taken.has(name.toLowerCase())) ?? wish;
}

/** One of the duckings changed. */
export const editDucking =
  (id: string, changes: Partial<Ducking>): Edit =>
  (old) => ({
    ...old,
    duckings: old.duckings.map((one) => (one.id === id ? { ...one, ...changes } : one)),
  });

/** The ducking by the kick, by which kick and bass are judged. */
export const mainDucking = (state: TrackState) => state.duckings[0] as Ducking;

/** It changed. */
export const editMain =
  (changes: Partial<Ducking>): Edit =>
  (old) =>
    editDucking(mainDucking(old).id, changes)(old);
