import type {
  Brief,
  ControlSheet,
  Hit,
  Layer,
  Place,
  Recording,
  Source,
  Stage,
  TrackState,
} from "../api/client";
import { freeName, newId } from "./parts";

/** The chord root of every bar, by its name. */
export const rootsOf = (brief: Brief): string[] =>
  brief.chord_roots.map((root) => (root === "tonic" ? brief.tonic : root));

/** What decides at which note a source sounds: a file and its shift, or a recipe. */
const pitched = (source: Source) =>
  source.kind === "imported" ? `${source.audio} ${source.shift_semitones}` : source.recipe;

/** One layer of a hit changed. What an ear said of its note holds only while the sound is the same. */
export const editLayer =
  (layer: number, change: (old: Layer) => Layer) =>
  (old: Hit): Hit => {
    const layers = old.layers.map((one, n) => (n === layer ? change(one) : one));
    const same = layers.every((one, n) => pitched(one.source) === pitched(old.layers[n]!.source));
    return { ...old, layers, heard_hz: same ? old.heard_hz : null };
  };

/** A source with some of its fields changed: a made one's recipe, or a file's own. */
export const editSource =
  (changes: object) =>
  (old: Layer): Layer => ({
    ...old,
    source: (old.source.kind === "imported"
      ? { ...old.source, ...changes }
      : { ...old.source, recipe: { ...old.source.recipe, ...changes } }) as Source,
  });

/** The only made kick of a hit, whose end can be dragged; null where there is more to it. */
export function plainKick(hit: Hit) {
  const source = hit.layers.length === 1 ? hit.layers[0]?.source : undefined;
  return source?.kind === "kick" ? source.recipe : null;
}

/** A chain with one stage exchanged, moved, added or taken away. */
export const chainOf = (hit: Hit, layer: number | null): Stage[] =>
  layer === null ? hit.chain : (hit.layers[layer]?.chain ?? []);

export const editChain =
  (layer: number | null, change: (old: Stage[]) => Stage[]) =>
  (old: Hit): Hit =>
    layer === null
      ? { ...old, chain: change(old.chain) }
      : editLayer(layer, (one) => ({ ...one, chain: change(one.chain) }))(old);

/** What a recipe starts from, field by field, as far as its controls know. */
export function defaults(sheet: ControlSheet | undefined): Record<string, unknown> {
  const fields = [...(sheet?.controls ?? []), ...(sheet?.choices ?? [])];
  return Object.fromEntries(fields.map((field) => [field.name, field.default]));
}

/** Where a new part lies: where it is, or in the middle alone. */
export const placeOf = (sheets: Record<string, ControlSheet>, width = 1) =>
  ({ ...defaults(sheets["place"]), width }) as Place;

/** A new layer around a source. */
export function newLayer(
  sheets: Record<string, ControlSheet>,
  source: Source,
  name: string,
): Layer {
  return {
    ...defaults(sheets["layer"]),
    name,
    job: "body",
    source,
    mute: false,
    solo: false,
    chain: [],
  } as unknown as Layer;
}

/** A new hit around one layer's source. */
export function newHit(
  state: TrackState,
  sheets: Record<string, ControlSheet>,
  kind: Hit["kind"],
  name: string,
  source: Source,
): Hit {
  return {
    id: newId(),
    part: "hit",
    name: freeName(state, name),
    kind,
    vary: 0,
    layers: [
      newLayer(sheets, source, source.kind === "imported" ? source.name.slice(0, 60) : name),
    ],
    chain: [],
    level_db: 0,
    aim: "by kind",
    follow: "no",
    steps: [],
    bars: 1,
    choke: "none",
    swing: "the track’s",
    swing_percent: 50,
    mute: false,
    stages: [],
    after: [],
    moves: [],
    place: placeOf(sheets),
    velocity: defaults(sheets["velocity"]) as Hit["velocity"],
  };
}

/** A file as a source. */
export const imported = (audio: string, name: string): Source => ({
  kind: "imported",
  audio,
  name,
  start_ms: 0,
  end_ms: null,
  shift_semitones: 0,
  spare_ms: 0,
  keep_length: "no",
  straighten: "no",
  level_db: 0,
  tops: "as they are",
  alternate: "in turn",
  takes: [],
});

/** The track with a recording that is to be cut; one that is there already stays as it is. */
export const withRecording = (
  old: TrackState,
  sheets: Record<string, ControlSheet>,
  audio: string,
  name: string,
): TrackState =>
  old.recordings.some((one) => one.audio === audio)
    ? old
    : {
        ...old,
        recordings: [
          ...old.recordings,
          { ...defaults(sheets["recording"]), audio, name, takes: [] } as unknown as Recording,
        ],
      };
