import type { components } from "./schema";

type Schemas = components["schemas"];
export type AnswerView = Schemas["AnswerView"];
export type BassRecipe = Schemas["BassRecipe"];
export type Brief = Schemas["Brief"];
export type BriefFacts = Schemas["BriefFacts"];
export type Choice = Schemas["Choice"];
export type Control = Schemas["Control"];
export type ControlSheet = Schemas["ControlSheet"];
export type DuckRecipe = Schemas["DuckRecipe"];
export type Effect = Schemas["Effect"];
export type Finding = Schemas["Finding"];
export type Handover = Schemas["Handover"];
export type Hit = Schemas["Hit"];
export type ImportedAudio = Schemas["ImportedAudio"];
export type KeptVersion = Schemas["KeptVersion"];
export type KickRecipe = Schemas["KickRecipe"];
export type KickView = Schemas["KickView"];
export type Move = Schemas["Move"];
export type Overlap = Schemas["Overlap"];
export type PatternStep = Schemas["Step"];
export type SavedTrack = Schemas["SavedTrack"];
export type Solved = Schemas["Solved"];
export type TrackName = Schemas["TrackName"];
export type TrackState = Schemas["TrackState"];

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

async function send(method: string, path: string, body?: unknown): Promise<Response> {
  let response: Response;
  const raw = body instanceof Blob;
  try {
    response = await fetch(path, {
      method,
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
      "Juglant’s server does not answer: is it still running in its terminal?",
      "away",
      null,
    );
  }
  if (!response.ok) throw await problemOf(response);
  return response;
}

async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  return (await (await send(method, path, body)).json()) as T;
}

const track = (id: number) => `/api/tracks/${id}`;

export const api = {
  tracks: () => ask<TrackName[]>("GET", "/api/tracks"),
  create: (name: string) => ask<SavedTrack>("POST", "/api/tracks", { name }),
  open: (id: number) => ask<SavedTrack>("GET", track(id)),
  rename: (id: number, name: string) => ask<SavedTrack>("PATCH", track(id), { name }),
  save: (id: number, state: TrackState, basedOn: number) =>
    ask<SavedTrack>("PUT", `${track(id)}/state`, { state, based_on: basedOn }),
  undo: (id: number) => ask<SavedTrack>("POST", `${track(id)}/undo`),
  redo: (id: number) => ask<SavedTrack>("POST", `${track(id)}/redo`),
  controls: () => ask<Record<string, ControlSheet>>("GET", "/api/brief/controls"),
  patterns: () => ask<Record<string, PatternStep[]>>("GET", "/api/line/patterns"),
  facts: (brief: Brief) => ask<BriefFacts>("POST", "/api/brief/facts", brief),
  kick: (brief: Brief, kick: TrackState["kick"]) =>
    ask<KickView>("POST", "/api/hits/kick", { brief, kick }),
  importAudio: (file: File) =>
    ask<ImportedAudio>("POST", `/api/audio?name=${encodeURIComponent(file.name)}`, file),
  tune: (state: TrackState, note: string) => ask<TrackState>("POST", "/api/tune", { state, note }),
  answer: (state: TrackState, bar: number) =>
    ask<AnswerView>("POST", "/api/duck/answer", { state, bar }),
  hit: async (brief: Brief, kick: TrackState["kick"]) =>
    (await send("POST", "/api/hits/kick/sound", { brief, kick })).arrayBuffer(),
  loop: async (state: TrackState) => (await send("POST", "/api/duck/sound", state)).arrayBuffer(),
  solve: (state: TrackState) => ask<Solved>("POST", "/api/duck/solve", state),
  tryFix: (id: string, state: TrackState) => ask<Effect>("POST", `/api/findings/${id}/fix`, state),
  handover: (id: number) => ask<Handover>("GET", `${track(id)}/handover`),
  versions: (id: number) => ask<KeptVersion[]>("GET", `${track(id)}/versions`),
  keep: (id: number, state: TrackState, note: string) =>
    ask<KeptVersion>("POST", `${track(id)}/versions`, { state, note }),
};

export const zipAddress = (id: number) => `${track(id)}/handover.zip`;
