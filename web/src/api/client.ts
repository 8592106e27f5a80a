import type { components } from "./schema";

type Schemas = components["schemas"];
export type AnswerView = Schemas["AnswerView"];
export type BassRecipe = Schemas["BassRecipe"];
export type Voice = Schemas["Voice"];
export type Brief = Schemas["Brief"];
export type BriefFacts = Schemas["BriefFacts"];
export type Choice = Schemas["Choice"];
export type Control = Schemas["Control"];
export type ControlSheet = Schemas["ControlSheet"];
export type TypedText = Schemas["TypedText"];
export type SoundPlan = Schemas["Plan"];
export type Move = Schemas["Move"];
export type MovePoint = Schemas["MovePoint"];
export type DuckRecipe = Schemas["DuckRecipe"];
export type DuckPoint = Schemas["Point"];
export type KeptShape = Schemas["KeptShape"];
export type Traced = Schemas["Traced"];
export type Effect = Schemas["Effect"];
export type Finding = Schemas["Finding"];
export type Handover = Schemas["Handover"];
export type Aligned = Schemas["Aligned"];
export type Hit = Schemas["Hit"];
export type HitNumbers = Schemas["HitNumbers"];
export type ApartView = Schemas["ApartView"];
export type HitPicture = Schemas["HitPicture"];
export type HitCloseup = Schemas["HitCloseup"];
export type LoopCloseup = Schemas["LoopCloseup"];
export type WaveShape = Schemas["WaveShape"];
export type HitView = Schemas["HitView"];
export type Layer = Schemas["Layer"];
export type LayersView = Schemas["LayersView"];
export type LayerView = Schemas["LayerView"];
export type Recording = Schemas["Recording"];
export type Source = Layer["source"];
export type Stage = Layer["chain"][number];
export type StageReport = Schemas["StageReport"];
export type Stroke = Partial<Schemas["Stroke"]>;
export type VelocityGroup = Schemas["VelocityGroup"];
export type TakeNumbers = Schemas["TakeNumbers"];
export type Variation = Schemas["Variation"];
export type Wave = Schemas["Wave"];
export type ImportedAudio = Schemas["ImportedAudio"];
export type LongFile = Schemas["LongFile"];
export type TrackSketch = Schemas["TrackSketch"];
export type KeptVersion = Schemas["KeptVersion"];
export type KeptVersions = Schemas["KeptVersions"];
export type KickRecipe = Schemas["KickRecipe"];
export type Candidate = Schemas["Candidate"];
export type Pitched = Schemas["Pitched"];
export type TuneTable = Schemas["TuneTable"];
export type Tuned = Schemas["Tuned"];
export type Overlap = Schemas["Overlap"];
export type TriedFix = Schemas["TriedFix"];
export type PlayedRecipe = Schemas["PlayedRecipe"];
export type Reference = Schemas["Reference"];
export type Voices = Schemas["Voices"];
export type MidiLine = Schemas["MidiLine"];
export type MidiNote = Schemas["MidiNote"];
export type Fitted = Schemas["Fitted"];
type FittedStrokes = Schemas["FittedStrokes"];
export type HitStep = Schemas["HitStep"];
export type PatternNote = Schemas["Note"];
export type SavedTrack = Schemas["SavedTrack"];
export type Solved = Schemas["Solved"];
export type AsKept = Schemas["AsKept"];
export type SlicedView = Schemas["SlicedView"];
export type FitCost = Schemas["FitCost"];
export type PartAlignment = Schemas["PartAlignment"];
export type Aimed = Schemas["Aimed"];
export type ListedTrack = Schemas["ListedTrack"];
export type HistoryStep = Schemas["HistoryStep"];
export type DemoName = Schemas["DemoTrack"]["name"];
export type Degree = Schemas["Degree"];
export type SeparateNumbers = Schemas["Numbers"];
export type SeparatePhase = Schemas["Phase"];
export type SeparateView = Schemas["SeparateView"];
export type SearchView = Schemas["SearchView"];
export type Keyed = Schemas["AsCompressor"];
export type Stem = Schemas["Stem"];
type DepthHeard = Schemas["DepthHeard"];
export type Ducking = Schemas["Ducking"];
export type Chord = Schemas["Chord"];
export type Outputs = Schemas["Outputs"];
export type Output = Schemas["Output"];
export type Place = Schemas["Place"];
type Moment = Schemas["Moment"];
export type DuckingReport = Schemas["DuckingReport"];
type Overview = Schemas["Overview"];
export type Proposal = Schemas["Proposal"];
export type Meeting = Schemas["Meeting"];
export type StockView = Schemas["StockView"];
export type Sound = Schemas["Sound"];
export type Dropped = Schemas["DroppedSound"];
export type StockWish = Partial<Schemas["Wish"]>;
export type Fit = Schemas["FitView"];
export type FiledView = Schemas["FiledView"];
export type JobView = Schemas["JobView"];
type FitStep = Schemas["FitStep"];
type Tried = Schemas["TriedSound"];
export type TrackState = Schemas["TrackState"];
export type Section = Schemas["SectionTold"];
export type Entry = Schemas["Entry"];
export type Arranged = Schemas["Arranged"];
export type Aspect = NonNullable<Schemas["Differs"]["aspect"]>;

/** What the server could not do, in its own words (problem details, RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly kind: string,
    readonly field: string | null,
  ) {
    super(message);
  }
}

/** Whether the server did not answer at all: it may come back. */
export const isAway = (error: unknown) => error instanceof Problem && error.kind === "away";
/** Whether a file is longer or larger than what can be used: a stretch of it can be cut. */
export const isTooLong = (error: unknown): error is Problem =>
  error instanceof Problem && ["too-long", "too-large"].includes(error.kind);
/** So often an absent server is asked whether it is back. */
export const AGAIN_MS = 1000;

async function problemOf(response: Response): Promise<Problem> {
  try {
    const told = (await response.json()) as {
      detail?: string;
      type?: string;
      field?: string | null;
    };
    const kind = (told.type ?? "").replace("urn:juglant:", "");
    return new Problem(
      response.status,
      told.detail ?? response.statusText,
      kind,
      told.field ?? null,
    );
  } catch {
    return new Problem(response.status, `The server answered ${response.status}.`, "http", null);
  }
}

export async function send(
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<Response> {
  let response: Response;
  const raw = body instanceof Blob;
  try {
    response = await fetch(path, {
      method,
      ...(signal ? { signal } : {}),
      ...(body === undefined
        ? {}
        : {
            body: raw ? body : JSON.stringify(body),
            headers: { "Content-Type": raw ? "application/octet-stream" : "application/json" },
          }),
    });
  } catch {
    throw new Problem(
      0,
      "Juglant’s server does not answer. Your changes stay in this page, and are saved when it is back.",
      "away",
      null,
    );
  }
  if (!response.ok) throw await problemOf(response);
  return response;
}

async function* linesOf(response: Response): AsyncGenerator<string> {
  const reader = (response.body as ReadableStream<Uint8Array>).getReader();
  const decoder = new TextDecoder();
  let left = "";
  for (;;) {
    const { value, done } = await reader.read();
    left += decoder.decode(value, { stream: !done });
    const lines = left.split("\n");
    left = lines.pop() ?? "";
    yield* lines;
    if (done) return;
  }
}

export async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  const response = await send(method, path, body);
  return (response.status === 204 ? null : await response.json()) as T;
}

/** Where a file is sent, under its own name. */
export const fileTo = (path: string, { name }: File, more: Record<string, number> = {}) =>
  `${path}?name=${encodeURIComponent(name)}` +
  Object.entries(more)
    .map(([key, value]) => `&${key}=${value}`)
    .join("");
const track = (id: number) => `/api/tracks/${id}`;

/** Sound that is sent as plain numbers, channel by channel. */
export async function samplesAt(path: string): Promise<Float32Array[]> {
  const response = await send("GET", path);
  const count = Number(response.headers.get("X-Channels"));
  const all = new Float32Array(await response.arrayBuffer());
  const frames = all.length / count;
  return Array.from({ length: count }, (_, n) => all.subarray(n * frames, (n + 1) * frames));
}

export const api = {
  tracks: () => ask<ListedTrack[]>("GET", "/api/tracks"),
  deletedTracks: () => ask<ListedTrack[]>("GET", "/api/tracks?deleted=true"),
  create: (name: string, brief?: Pick<Brief, "bpm" | "tonic" | "mode">) =>
    ask<SavedTrack>("POST", "/api/tracks", { name, ...(brief && { brief }) }),
  beginFromDemo: (name: DemoName) => ask<SavedTrack>("POST", "/api/tracks/demo", { name }),
  copyTrack: (id: number) => ask<SavedTrack>("POST", `${track(id)}/copy`),
  deleteTrack: (id: number) => ask<null>("DELETE", track(id)),
  undeleteTrack: (id: number) => ask<SavedTrack>("POST", `${track(id)}/undelete`),
  weight: () => ask<Schemas["Weight"]>("GET", "/api/tracks/weight"),
  history: (id: number) => ask<HistoryStep[]>("GET", `${track(id)}/history`),
  goTo: (id: number, revision: number, based_on: number, section: string) =>
    ask<SavedTrack>(
      "POST",
      `${track(id)}/history/${revision}?based_on=${based_on}&section=${section}`,
    ),
  deleteVersion: (id: number, version: number) =>
    ask<null>("DELETE", `${track(id)}/versions/${version}`),
  undeleteVersion: (id: number, version: number) =>
    ask<KeptVersion>("POST", `${track(id)}/versions/${version}/undelete`),
  /** A track as one of its sections sounds; without one, as its main section does. */
  open: (id: number, section?: string) =>
    ask<SavedTrack>("GET", `${track(id)}${section ? `?section=${section}` : ""}`),
  sketch: (id: number) => ask<TrackSketch>("GET", `${track(id)}/sketch`),
  rename: (id: number, name: string) => ask<SavedTrack>("PATCH", track(id), { name }),
  save: (id: number, section: string, state: TrackState, based_on: number) =>
    ask<SavedTrack>("PUT", `${track(id)}/state`, { section, state, based_on }),
  undo: (id: number, based_on: number, section: string) =>
    ask<SavedTrack>("POST", `${track(id)}/undo?based_on=${based_on}&section=${section}`),
  redo: (id: number, based_on: number, section: string) =>
    ask<SavedTrack>("POST", `${track(id)}/redo?based_on=${based_on}&section=${section}`),
  addSection: (id: number, like: string, name: string, based_on: number) =>
    ask<SavedTrack>("POST", `${track(id)}/sections`, { like, name, based_on }),
  renameSection: (id: number, at: string, section: string, name: string, based_on: number) =>
    ask<SavedTrack>("PATCH", `${track(id)}/sections/${section}`, { at, name, based_on }),
  removeSection: (id: number, at: string, section: string, based_on: number) =>
    ask<SavedTrack>("DELETE", `${track(id)}/sections/${section}?based_on=${based_on}&at=${at}`),
  makeMain: (id: number, at: string, section: string, based_on: number) =>
    ask<SavedTrack>("POST", `${track(id)}/sections/${section}/main`, { at, based_on }),
  follow: (id: number, section: string, part: string, aspect: Aspect | null, based_on: number) =>
    ask<SavedTrack>("POST", `${track(id)}/sections/${section}/follow`, { part, aspect, based_on }),
  arrange: (id: number, at: string, entries: Entry[], based_on: number) =>
    ask<SavedTrack>("PUT", `${track(id)}/arrangement`, { at, entries, based_on }),
  arrangement: (id: number) => ask<Arranged>("GET", `${track(id)}/arrangement`),
  /** Begins to play the arrangement straight through into a ZIP. */
  playStraight: (id: number) => ask<JobView>("POST", `${track(id)}/arrangement`),
  controls: () => ask<Record<string, ControlSheet>>("GET", "/api/brief/controls"),
  patterns: () => ask<Record<string, PatternNote[]>>("GET", "/api/line/patterns"),
  facts: (brief: Brief) => ask<BriefFacts>("POST", "/api/brief/facts", brief),
  typed: (given: TypedText) => ask<number>("POST", "/api/brief/typed", given),
  tapped: (times_ms: number[]) => ask<number>("POST", "/api/brief/tapped", { times_ms }),
  starts: () => ask<Record<string, Record<string, Source>>>("GET", "/api/hits/starts"),
  viewHit: (brief: Brief, hit: Hit) => ask<HitView>("POST", "/api/hits/view", { brief, hit }),
  layers: (brief: Brief, hit: Hit) => ask<LayersView>("POST", "/api/hits/layers", { brief, hit }),
  align: (
    brief: Brief,
    hit: Hit,
    wish: { layer: number; against: number; low_hz: number; high_hz: number },
  ) => ask<Aligned>("POST", "/api/hits/align", { brief, hit, ...wish }),
  stages: (brief: Brief, hit: Hit, layer: number | null) =>
    ask<StageReport[]>("POST", "/api/hits/stages", { brief, hit, layer }),
  scatter: (
    brief: Brief,
    source: Source,
    wish: { amount: number; locked: string[]; seed: number },
  ) => ask<Variation[]>("POST", "/api/hits/scatter", { brief, source, ...wish }),
  importAudio: (file: File) => ask<ImportedAudio>("POST", fileTo("/api/audio", file), file),
  /** A file that is too long, as it is drawn; a stretch of it, heard or taken. */
  outline: (file: File) => ask<LongFile>("POST", fileTo("/api/audio/outline", file), file),
  stretch: async (file: File, from_s: number, seconds: number) =>
    (
      await send("POST", fileTo("/api/audio/stretch", file, { from_s, seconds }), file)
    ).arrayBuffer(),
  cutFile: (file: File, from_s: number, seconds: number) =>
    ask<ImportedAudio>("POST", fileTo("/api/audio/cut", file, { from_s, seconds }), file),
  workshop: () => ask<ImportedAudio>("POST", "/api/takes/workshop"),
  cut: (recording: Recording, brief: Brief) =>
    ask<TakeNumbers[]>("POST", "/api/takes/cut", { recording, brief }),
  measureTake: (audio: string, brief: Brief, start_ms: number, end_ms: number) =>
    ask<TakeNumbers>("POST", "/api/takes/measure", { audio, brief, start_ms, end_ms }),
  wave: (audio: string, from_ms: number, to_ms: number, columns: number) =>
    ask<Wave>("POST", "/api/takes/wave", { audio, from_ms, to_ms, columns }),
  groups: (levels_dbfs: number[]) =>
    ask<VelocityGroup[]>("POST", "/api/takes/groups", { levels_dbfs }),
  tuneTable: (state: TrackState) => ask<TuneTable>("POST", "/api/tune/table", { state }),
  tune: (state: TrackState, id: string, note: string) =>
    ask<Tuned>("POST", "/api/tune", { state, id, note }),
  heardAs: (state: TrackState, id: string, text: string) =>
    ask<TrackState>("POST", "/api/tune/heard", { state, id, text }),
  tuneAll: (state: TrackState) => ask<Tuned>("POST", "/api/tune/all", { state }),
  answer: (state: TrackState, bar: number) =>
    ask<AnswerView>("POST", "/api/duck/answer", { state, bar }),
  /** A stretch of the loop, in ms from its start. */
  closeup: (state: TrackState, from_ms: number, to_ms: number) =>
    ask<LoopCloseup>("POST", "/api/closeup/loop", { state, from_ms, to_ms }),
  closeupHit: (brief: Brief, hit: Hit, from_ms: number, to_ms: number) =>
    ask<HitCloseup>("POST", "/api/closeup/hit", { brief, hit, from_ms, to_ms }),
  moment: (state: TrackState, bar: number, at_ms: number) =>
    ask<Moment>("POST", "/api/duck/moment", { state, bar, at_ms }),
  hit: async (brief: Brief, hit: Hit, stroke: Stroke = {}) =>
    (await send("POST", "/api/hits/sound", { brief, hit, ...stroke })).arrayBuffer(),
  /** One note of a line by itself, as a WAV file. */
  note: async (state: TrackState, line: string, midi: number, velocity: number) =>
    (await send("POST", "/api/line/note", { state, line, midi, velocity })).arrayBuffer(),
  openParcel: (file: File) => ask<SavedTrack>("POST", fileTo("/api/tracks/parcel", file), file),
  /** What the loop is made of; its sounds `ahead` are rendered while the answer is on its way. */
  planSound: (state: TrackState, ahead: "none" | "before" | "heard") =>
    ask<SoundPlan>("POST", `/api/sound/plan?ahead=${ahead}`, state),
  bandMatch: (state: TrackState, parts: string[], ducked: boolean) =>
    ask<Record<"low" | "mid" | "top", number>>("POST", "/api/sound/bands", {
      state,
      parts,
      ducked,
    }),
  /** A sound by its name, channel by channel. */
  sound: (key: string) => samplesAt(`/api/sound/${key}`),
  reference: (file: File) => ask<Reference>("POST", fileTo("/api/brief/reference", file), file),
  voices: (state: TrackState, line: string) =>
    ask<Voices>("POST", "/api/line/voices", { state, line }),
  even: (state: TrackState, line: string) =>
    ask<TrackState>("POST", "/api/line/even", { state, line }),
  readMidi: (file: File) => ask<MidiLine>("POST", fileTo("/api/line/read", file), file),
  strokesOf: (state: TrackState, heard: string, hit: string) =>
    ask<FittedStrokes>("POST", "/api/line/strokes", { state, heard, hit }),
  fitStrokes: (brief: Brief, hit: Hit, notes: MidiNote[]) =>
    ask<FittedStrokes>("POST", "/api/line/fit-strokes", { brief, hit, notes }),
  fitMidi: (brief: Brief, notes: MidiNote[]) =>
    ask<Fitted>("POST", "/api/line/fit", { brief, notes }),
  writeMidi: async (state: TrackState, name: string) =>
    (await send("POST", "/api/line/midi", { state, name })).blob(),
  separateView: (state: TrackState, bar: number) =>
    ask<SeparateView>("POST", "/api/separate/view", { state, bar }),
  /** Begins to search for the least that parts kick and bass; then what came of it. */
  searchApart: (state: TrackState) => ask<JobView>("POST", "/api/separate/search", state),
  searched: (job: number) => ask<SearchView>("GET", `/api/separate/search/${job}`),
  stock: () => ask<StockView>("GET", "/api/stock"),
  addFolder: (path: string) => ask<JobView>("POST", "/api/stock/folders", { path }),
  forgetFolder: async (id: number) => {
    await send("DELETE", `/api/stock/folders/${id}`);
  },
  watchFolder: async (id: number, watched: boolean) => {
    await send("PUT", `/api/stock/folders/${id}`, { watched });
  },
  tryDropped: async (sounds: Dropped[]) => {
    await send("POST", "/api/stock/dropped", { sounds });
  },
  scanStock: () => ask<JobView>("POST", "/api/stock/scan"),
  /** Begins to take a layer of a hit apart into what can be edited; then what came of it. */
  takeApart: (brief: Brief, hit: Hit, layer: number) =>
    ask<JobView>("POST", "/api/apart", { brief, hit, layer }),
  apart: (job: number) => ask<ApartView>("GET", `/api/apart/${job}`),
  jobs: () => ask<JobView[]>("GET", "/api/jobs"),
  stopJob: (id: number) => ask<JobView>("POST", `/api/jobs/${id}/stop`),
  waitJob: (id: number) => ask<JobView>("POST", `/api/jobs/${id}/wait`),
  findSounds: (wish: StockWish) => ask<Sound[]>("POST", "/api/stock/find", wish),
  /** Sounds by how they fit: told as they are ranked, and again with each that is measured in the loop. */
  fitSounds: async (
    question: { state: TrackState; part: string; wish: StockWish; weights: Record<string, number> },
    told: (step: FitStep) => void,
    signal: AbortSignal,
  ): Promise<void> => {
    const response = await send("POST", "/api/stock/fit", question, signal);
    for await (const line of linesOf(response)) told(JSON.parse(line) as FitStep);
  },
  trySound: (state: TrackState, part: string, hash: string, tuned: boolean) =>
    ask<Tried>("POST", "/api/stock/try", { state, part, hash, tuned }),
  takeSound: async (hash: string) => {
    await send("POST", `/api/stock/take/${hash}`);
  },
  markSound: (hash: string, mark: Schemas["MarkGiven"]) =>
    ask<Schemas["MarkGiven"]>("PUT", `/api/stock/marks/${hash}`, mark),
  filed: () => ask<FiledView[]>("GET", "/api/stock/filed"),
  fileHit: (what: FiledView["what"], hit: Hit) =>
    ask<FiledView>("POST", "/api/stock/filed", { what, hit }),
  fileBatch: (batch: Schemas["Batch"]) => ask<FiledView[]>("POST", "/api/stock/filed/batch", batch),
  filedKit: async (kit: Schemas["ToKit"]) =>
    (await send("POST", "/api/stock/filed/kit.zip", kit)).blob(),
  dropFiled: async (id: number) => {
    await send("DELETE", `/api/stock/filed/${id}`);
  },
  returnOn: (state: TrackState, value: string) =>
    ask<DuckRecipe>("POST", "/api/duck/return", { state, value }),
  draw: (duck: DuckRecipe) => ask<DuckRecipe>("POST", "/api/duck/draw", duck),
  curve: (duck: DuckRecipe) => ask<Traced>("POST", "/api/duck/curve", duck),
  needed: (state: TrackState) => ask<number[]>("POST", "/api/duck/needed", state),
  shapes: (bpm: number) => ask<KeptShape[]>("GET", `/api/shapes?bpm=${bpm}`),
  keepShape: (name: string, bpm: number, points: DuckPoint[]) =>
    ask<KeptShape[]>("POST", "/api/shapes", { name, bpm, points }),
  forgetShape: async (id: number) => {
    await send("DELETE", `/api/shapes/${id}`);
  },
  duckings: (state: TrackState, bar: number) =>
    ask<Overview>("POST", "/api/duck/overview", { state, bar }),
  heard: (state: TrackState) => ask<DepthHeard>("POST", "/api/duck/heard", state),
  asCompressor: (state: TrackState, ducking: string) =>
    ask<Keyed[]>("POST", "/api/duck/compressor", { state, ducking }),
  solve: (state: TrackState, ducking: string, margin_db: number) =>
    ask<Solved>("POST", "/api/duck/solve", { state, ducking, margin_db }),
  asKept: (id: number, version: number) =>
    ask<AsKept>("GET", `${track(id)}/versions/${version}/as-kept`),
  fitCost: ({ state, part }: { state: TrackState; part: string }) =>
    ask<FitCost>("POST", "/api/parts/fit", { state, part }),
  sliced: (state: TrackState, part: string) =>
    ask<SlicedView>("POST", "/api/parts/slices", { state, part }),
  alignPart: (state: TrackState, part: string, against: string) =>
    ask<PartAlignment>("POST", "/api/parts/align", { state, part, against }),
  aim: (state: TrackState, ducking: string, target: string, heard_db: number, back_on: string) =>
    ask<Aimed>("POST", "/api/duck/aim", { state, ducking, target, heard_db, back_on }),
  move: (question: { move: Move; scale: Control["scale"] }) =>
    ask<number[]>("POST", "/api/parts/move", question),
  stagesOf: (state: TrackState, part: string, behind: boolean) =>
    ask<StageReport[]>("POST", "/api/parts/stages", { state, part, behind }),
  triedFixes: async (id: string, state: TrackState, signal: AbortSignal): Promise<TriedFix[]> => {
    const response = await send("POST", `/api/findings/${id}/fixes`, state, signal);
    return (await response.json()) as TriedFix[];
  },
  tryFix: (id: string, way: string, state: TrackState) =>
    ask<Effect>("POST", `/api/findings/${id}/fix?way=${encodeURIComponent(way)}`, state),
  handover: (id: number, section: string) =>
    ask<Handover>("GET", `${track(id)}/handover?section=${section}`),
  keep: (id: number, section: string, state: TrackState, note: string) =>
    ask<KeptVersion>("POST", `${track(id)}/versions`, { section, state, note }),
  bringBack: (id: number, version: number, based_on: number) =>
    ask<SavedTrack>("POST", `${track(id)}/versions/${version}/back`, { based_on }),
};

/** One section as a ZIP, or all of them. */
export const kitAddress = (id: number, section: string) =>
  `${track(id)}/kit.zip?section=${section}`;
export const zipAddress = (id: number, section?: string) =>
  `${track(id)}/handover.zip${section ? `?section=${section}` : ""}`;
/** Where the whole arrangement, played straight through, is downloaded. */
export const arrangementAddress = (id: number, job: number) => `${track(id)}/arrangement/${job}`;
/** Where a track is downloaded as one file, for another studio. */
export const parcelAddress = (id: number) => `${track(id)}/parcel.zip`;
/** Where a kept version is downloaded as it is stored. */
export const rawAddress = (id: number, version: number) => `${track(id)}/versions/${version}/raw`;
