import { ask, send, type Effect, type TrackState, type TriedFix } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Room = Schemas["RoomQuestion"]["room"];
export type RoomView = Schemas["RoomView"];
export type RoomResponse = Schemas["RoomResponse"];
export type OwnPlace = Schemas["OwnPlace"];
export type HeardThere = Schemas["HeardThere"];
export type Exposure = Schemas["Exposure"];
export type MatchedBy = Schemas["HeardQuestion"]["by"];

/** A state in a place, and how loud the finished track is to be. */
export interface RoomQuestion {
  state: TrackState;
  room: Room;
  lufs: number;
}

/** A place that is listened through, and what it is made equally loud by. */
export interface Through {
  room: Room;
  by: NonNullable<MatchedBy>;
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
  heardThere: (state: TrackState, through: Through, parts: string[], ducked: boolean) =>
    ask<HeardThere>("POST", "/api/room/heard", { state, ...through, parts, ducked }),
  responses: () => ask<OwnPlace[]>("GET", "/api/room/responses"),
  keepResponse: (file: File) =>
    ask<OwnPlace[]>("POST", `/api/room/responses?name=${encodeURIComponent(file.name)}`, file),
  forgetResponse: async (id: number) => {
    await send("DELETE", `/api/room/responses/${id}`);
  },
  exposure: (dba: number, dbc: number | null) =>
    ask<Exposure>("GET", `/api/room/exposure?dba=${dba}${dbc === null ? "" : `&dbc=${dbc}`}`),
};
