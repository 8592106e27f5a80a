import {
  ask,
  fileTo,
  samplesAt,
  send,
  type Effect,
  type JobView,
  type KeptVersion,
  type KeptVersions,
  type SavedTrack,
  type TrackState,
  type TriedFix,
} from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Room = Schemas["RoomQuestion"]["room"];
export type RoomView = Schemas["RoomView"];
export type RoomResponse = Schemas["RoomResponse"];
export type OwnPlace = Schemas["OwnPlace"];
export type HeardThere = Schemas["HeardThere"];
export type ReferenceView = Schemas["ReferenceView"];
export type AgainstView = Schemas["AgainstView"];
export type EarSkill = Schemas["SkillView"];
export type EarQuestion = Schemas["AskedView"];
export type EarTold = Schemas["Told"];
export type Outlet = Schemas["OutletView"];
export type WholeView = Schemas["WholeView"];
export type SectionsView = Schemas["SectionsView"];
export type DesignView = Schemas["DesignView"];
export type Designed = Schemas["Design"];
export type Character = Required<Schemas["Character"]>;
export type SolvedStep = Schemas["Step"];
export type LogEntry = Schemas["LogEntry"];
export type Day = Schemas["Day"];
export type ToldNumber = Schemas["ToldNumber"];
export type Exposure = Schemas["Exposure"];

/** A state in a place, and how loud the finished track is to be. */
export interface RoomQuestion {
  state: TrackState;
  room: Room;
  lufs: number;
}

/** A place that is listened through, and what it is made equally loud by. */
export interface Through {
  room: Room;
  by: NonNullable<Schemas["HeardQuestion"]["by"]>;
}

/** What is judged: places, comparisons, the log. */
export const judging = {
  room: (question: RoomQuestion) => ask<RoomView>("POST", "/api/room/view", question),
  response: (room: Room) => ask<RoomResponse>("POST", "/api/room/response", { room }),
  roomFixes: async (
    id: string,
    question: RoomQuestion,
    signal: AbortSignal,
  ): Promise<TriedFix[]> => {
    const response = await send("POST", `/api/room/${id}/fixes`, question, signal);
    return (await response.json()) as TriedFix[];
  },
  roomFix: (id: string, way: string, question: RoomQuestion) =>
    ask<Effect>("POST", `/api/room/${id}/fix?way=${encodeURIComponent(way)}`, question),
  heardThere: (state: TrackState, { room, by }: Through, parts: string[], ducked: boolean) =>
    ask<HeardThere>("POST", "/api/room/heard", { state, room, by, parts, ducked }),
  responses: () => ask<OwnPlace[]>("GET", "/api/room/responses"),
  keepResponse: (file: File) => ask<OwnPlace[]>("POST", fileTo("/api/room/responses", file), file),
  forgetResponse: async (id: number) => {
    await send("DELETE", `/api/room/responses/${id}`);
  },
  references: (track: number) => ask<ReferenceView[]>("GET", `/api/references?track=${track}`),
  addReference: (track: number, file: File, from_s: number | null) =>
    ask<JobView>(
      "POST",
      fileTo("/api/references", file, { track, ...(from_s !== null && { from_s }) }),
      file,
    ),
  dropReference: async (id: number) => {
    await send("DELETE", `/api/references/${id}`);
  },
  referenceSound: (id: number) => samplesAt(`/api/references/${id}/sound`),
  against: (question: { state: TrackState; references: number[] }) =>
    ask<AgainstView>("POST", "/api/references/against", question),
  nearer: (state: TrackState, references: number[], name: string) =>
    ask<Effect>("POST", "/api/references/nearer", { state, references, name }),
  outlet: (track: number) => ask<Outlet>("GET", `/api/tracks/${track}/outlet`),
  nameOutlet: (track: number, folder: string | null, watching: boolean) =>
    ask<Outlet>("PUT", `/api/tracks/${track}/outlet`, { folder, watching }),
  pair: (track: number, part: string, file: string | null) =>
    ask<Outlet>("PUT", `/api/tracks/${track}/watched`, { part, file }),
  takeChanged: (track: number, take: { part: string; section: string; based_on: number }) =>
    ask<SavedTrack>("POST", `/api/tracks/${track}/take`, take),
  handOver: (track: number, section: string | null, write: boolean) =>
    ask<Schemas["HandedOver"]>("POST", `/api/tracks/${track}/handed-over`, { section, write }),
  /** Begins to solve a low end as a whole; then what came of it. */
  solveWhole: (question: Schemas["WholeQuestion"]) => ask<JobView>("POST", "/api/whole", question),
  whole: (job: number) => ask<WholeView>("GET", `/api/whole/${job}`),
  /** Begins to solve every section of a stored track; then what came of it; then takes it. */
  solveSections: (question: Schemas["SectionsQuestion"]) =>
    ask<JobView>("POST", "/api/whole/sections", question),
  sectionsSolved: (job: number) => ask<SectionsView>("GET", `/api/whole/sections/${job}`),
  takeSections: (job: number, base: { based_on: number; at: string }) =>
    ask<SavedTrack>("POST", `/api/whole/sections/${job}/take`, base),
  /** Begins to design a sound for its partner; then what came of it. */
  design: (question: Schemas["DesignQuestion"]) => ask<JobView>("POST", "/api/design", question),
  designed: (job: number) => ask<DesignView>("GET", `/api/design/${job}`),
  skills: () => ask<EarSkill[]>("GET", "/api/ear"),
  earAsk: (skill: EarSkill["id"], state: TrackState) =>
    ask<EarQuestion>("POST", `/api/ear/${skill}/ask`, state),
  earSound: async (question: number, sound: number) =>
    (await send("GET", `/api/ear/questions/${question}/${sound}`)).arrayBuffer(),
  earAnswer: (question: number, answer: number) =>
    ask<EarTold>("POST", `/api/ear/questions/${question}`, { answer }),
  earAgain: async (skill: EarSkill["id"]) => {
    await send("DELETE", `/api/ear/${skill}`);
  },
  match: (a: TrackState, b: TrackState) =>
    ask<Schemas["EqualGains"]>("POST", "/api/compare/match", { a, b }),
  matchRecord: (state: TrackState, record: number) =>
    ask<Schemas["EqualGains"]>("POST", `/api/references/${record}/match`, state),
  score: (right: number, rounds: number) =>
    ask<Schemas["Score"]>("GET", `/api/compare/score?right=${right}&rounds=${rounds}`),
  entries: (track: number) => ask<LogEntry[]>("GET", `/api/tracks/${track}/entries`),
  addEntry: (track: number, kind: "note" | "blind", note: string) =>
    ask<LogEntry>("POST", `/api/tracks/${track}/entries`, { kind, note }),
  dropEntry: async (track: number, id: number) => {
    await send("DELETE", `/api/tracks/${track}/entries/${id}`);
  },
  days: (track: number) => ask<string[]>("GET", `/api/tracks/${track}/days`),
  day: (track: number, day: string) => ask<Day>("GET", `/api/tracks/${track}/days/${day}`),
  mark: (track: number, version: number, mark: { star?: boolean; tags?: string }) =>
    ask<KeptVersion>("PUT", `/api/tracks/${track}/versions/${version}/mark`, mark),
  versionState: (track: number, version: number, section: string) =>
    ask<TrackState>("GET", `/api/tracks/${track}/versions/${version}/state?section=${section}`),
  partBack: (
    track: number,
    version: number,
    back: { part: string; section: string; based_on: number },
  ) => ask<SavedTrack>("POST", `/api/tracks/${track}/versions/${version}/part`, back),
  versions: (track: number, before: number | null, find: string, starred: boolean) => {
    const asked = new URLSearchParams({ find, starred: String(starred) });
    if (before !== null) asked.set("before", String(before));
    return ask<KeptVersions>("GET", `/api/tracks/${track}/versions?${asked}`);
  },
  exposure: (dba: number, dbc: number | null) =>
    ask<Exposure>("GET", `/api/room/exposure?dba=${dba}${dbc === null ? "" : `&dbc=${dbc}`}`),
};

/** Where the whole log is downloaded as Markdown with its pictures. */
export const logAddress = (track: number) => `/api/tracks/${track}/log.zip`;
