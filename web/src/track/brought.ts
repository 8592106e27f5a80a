import type { ControlSheet, Hit, ImportedAudio, Source, TrackState, Voice } from "../api/client";
import { MOST_LAYERS, MOST_TAKES } from "../api/limits";
import { defaults, editLayer, imported, newHit, newLayer, withRecording } from "./edits";
import { type Edit, editHit, editVoice, hitOf, kickOf, nameOf, withPart } from "./parts";
import { withStem } from "./stems";

/** What a sound may be brought in from; what a file really is, its bytes decide. */
export const SOUND_FILES = "audio/*,video/*,.aif,.aiff,.caf";

/** What a file becomes. */
export type Brought = "hit" | "layer" | "bass" | "recording" | "stem";

interface Place {
  state: TrackState;
  hitId: string;
  /** Which layer of the hit. */
  layer: number;
  lineId: string;
}

const lineName = ({ state, lineId }: Place) => nameOf(state, lineId);
const hitName = ({ state, hitId }: Place) => nameOf(state, hitId).toLowerCase();

/** What is said while a file hovers over the page. */
export const dropsAs = (as: Brought, place: Place): string => {
  if (as === "recording") return "Drop to cut it into takes";
  if (as === "stem") return "Drop to add it as a stem";
  if (as === "bass") return `Drop to use it as the ${lineName(place)}`;
  const { layers } = hitOf(place.state, place.hitId);
  if (as === "layer") return `Drop to add it as a layer of the ${hitName(place)}`;
  return layers.length > 1
    ? `Drop to use it as layer ${place.layer + 1} of the ${hitName(place)}`
    : `Drop to use it as the ${hitName(place)}`;
};

/** A hit with files as further layers, as far as there is room; and a hit with a file as one layer's sound. */
const withLayers =
  (files: ImportedAudio[], controls: Record<string, ControlSheet>) => (old: Hit) => ({
    ...old,
    layers: [
      ...old.layers,
      ...files.map(({ audio, name }) =>
        newLayer(controls, imported(audio, name), name.slice(0, 60)),
      ),
    ].slice(0, MOST_LAYERS),
  });

/** What several files may become at once. */
export const MANY = ["layers", "hits", "takes", "stems"] as const;
export type Many = (typeof MANY)[number];

/** Several files put where they belong; and what to say of it. */
export function putMany(
  as: Many,
  files: ImportedAudio[],
  controls: Record<string, ControlSheet>,
  place: Place,
): { edit: Edit; told: string } {
  const { state, hitId, layer } = place;
  const count = `${files.length} files`;
  if (as === "stems") {
    const edits = files.map(({ audio, name }) => withStem(controls, audio, name));
    return { edit: inTurn(edits), told: `${count} are stems now: heard with All.` };
  }
  if (as === "hits") {
    const edits = files.map(({ audio, name, kind_of_hit }): Edit => (old) => {
      const plain = name.replace(/\.[^.]*$/, "").slice(0, 60) || "hit";
      return withPart(newHit(old, controls, kind_of_hit, plain, imported(audio, name)))(old);
    });
    return { edit: inTurn(edits), told: `${count} are hits of their own now.` };
  }
  if (as === "layers") {
    const room = MOST_LAYERS - hitOf(state, hitId).layers.length;
    const kept = files.slice(0, room);
    const left = files.length - kept.length;
    return {
      edit: editHit(hitId, withLayers(kept, controls)),
      told: `${kept.length} of ${count} are layers of the ${hitName(place)} now${left > 0 ? `: it has no room for ${left} more` : ""}.`,
    };
  }
  const [first, ...others] = files as [ImportedAudio, ...ImportedAudio[]];
  const source = {
    ...imported(first.audio, first.name),
    takes: others.slice(0, MOST_TAKES).map(({ audio, name }) => ({
      audio,
      name,
      start_ms: 0,
      end_ms: null,
      up_to: 1,
    })),
  } as Source;
  return {
    edit: editHit(
      hitId,
      editLayer(layer, (old) => ({ ...old, source })),
    ),
    told: `${count} are takes of the ${hitName(place)} now, played in turn.`,
  };
}

const inTurn =
  (edits: Edit[]): Edit =>
  (old) =>
    edits.reduce((state, edit) => edit(state), old);

/** A file that has been read, put where it belongs; and what to say of it. */
export function put(
  as: Brought,
  file: ImportedAudio,
  controls: Record<string, ControlSheet>,
  place: Place,
): { edit: Edit; told: string } {
  const { audio, name, channels } = file;
  const { hitId, layer, lineId, state } = place;
  const summed = channels === 2 ? ", as its mono sum" : "";
  if (as === "bass") {
    const bass = {
      ...defaults(controls["imported_bass"]),
      kind: "imported",
      audio,
      name,
      silent: [],
    } as unknown as Voice["bass"];
    return {
      edit: editVoice(lineId, (old) => ({ ...old, bass })),
      told: `${name} is the ${lineName(place)} now${summed}.`,
    };
  }
  if (as === "recording")
    return {
      edit: (old) => withRecording(old, controls, audio, name),
      told: `${name} is ready to be cut.`,
    };
  if (as === "stem")
    return {
      edit: withStem(controls, audio, name),
      told: `${name} is a stem now: heard with All, from its beginning.`,
    };
  if (as === "layer") return putMany("layers", [file], controls, place);
  // Chains, places and the pattern stay: only what sounds is another.
  const source = imported(audio, name);
  const mono = hitId === kickOf(state).id ? summed : "";
  const several = hitOf(state, hitId).layers.length > 1;
  return {
    edit: editHit(
      hitId,
      editLayer(layer, (old) => ({ ...old, source })),
    ),
    told: several
      ? `${name} is layer ${layer + 1} of the ${hitName(place)} now.`
      : `${name} is the ${hitName(place)} now${mono}.`,
  };
}
