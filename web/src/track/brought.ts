import type { ControlSheet, ImportedAudio, TrackState, Voice } from "../api/client";
import { defaults, imported, newLayer, withRecording } from "./edits";
import { type Edit, editHit, editVoice, kickOf, nameOf } from "./parts";
import { withStem } from "./stems";

/** What a file becomes. */
export type Brought = "hit" | "bass" | "recording" | "stem";

interface Place {
  state: TrackState;
  hitId: string;
  lineId: string;
}

const lineName = ({ state, lineId }: Place) => nameOf(state, lineId);
const hitName = ({ state, hitId }: Place) => nameOf(state, hitId).toLowerCase();

/** What is said while a file hovers over the page. */
export const dropsAs = (as: Brought, place: Place): string =>
  as === "recording"
    ? "Drop to cut it into takes"
    : as === "stem"
      ? "Drop to add it as a stem"
      : `Drop to use it as the ${as === "bass" ? lineName(place) : hitName(place)}`;

/** A file that has been read, put where it belongs; and what to say of it. */
export function put(
  as: Brought,
  { audio, name, channels }: ImportedAudio,
  controls: Record<string, ControlSheet>,
  place: Place,
): { edit: Edit; told: string } {
  const { hitId, lineId, state } = place;
  const summed = channels === 2 ? ", as its mono sum" : "";
  if (as === "bass") {
    const bass = {
      ...defaults(controls["imported_bass"]),
      kind: "imported",
      audio,
      name,
    } as Voice["bass"];
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
  const layer = newLayer(controls, imported(audio, name), name.slice(0, 60));
  return {
    edit: editHit(hitId, (old) => ({ ...old, layers: [layer], chain: [], heard_hz: null })),
    told: `${name} is the ${hitName(place)} now${hitId === kickOf(state).id ? summed : ""}.`,
  };
}
