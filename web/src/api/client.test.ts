import { afterEach, expect, test, vi } from "vitest";
import { api, Problem } from "./client";

const answer = (status: number, body: string, type = "application/json") =>
  vi.fn(() => Promise.resolve(new Response(body, { status, headers: { "Content-Type": type } })));

afterEach(() => vi.unstubAllGlobals());

async function problem(work: Promise<unknown>): Promise<Problem> {
  const found = await work.catch((error: unknown) => error);
  expect(found).toBeInstanceOf(Problem);
  return found as Problem;
}

test("what the server says is what the user reads", async () => {
  const told = {
    type: "urn:juglant:stale",
    detail: "Changed elsewhere.",
    field: null,
    status: 409,
  };
  vi.stubGlobal("fetch", answer(409, JSON.stringify(told), "application/problem+json"));
  const found = await problem(api.open(1));
  expect([found.status, found.kind, found.message]).toEqual([409, "stale", "Changed elsewhere."]);
});

test("an answer that is no problem document still has a sentence", async () => {
  vi.stubGlobal("fetch", answer(502, "<html>gateway</html>", "text/html"));
  expect((await problem(api.tracks())).message).toBe("The server answered 502.");
});

test("a server that is gone is told as such", async () => {
  vi.stubGlobal(
    "fetch",
    vi.fn(() => Promise.reject(new TypeError("failed"))),
  );
  const found = await problem(api.tracks());
  expect(found.kind).toBe("away");
  expect(found.message).toContain("does not answer");
});

test("a file is sent as it is, under its own name", async () => {
  const fetch = answer(201, "{}");
  vi.stubGlobal("fetch", fetch);
  const file = new File([new Uint8Array([1, 2, 3])], "a kick & more.wav");
  await api.importAudio(file);
  const [path, init] = fetch.mock.calls[0] as unknown as [string, RequestInit];
  expect(path).toBe("/api/audio?name=a%20kick%20%26%20more.wav");
  expect(init.body).toBe(file);
  expect((init.headers as Record<string, string>)["Content-Type"]).toBe("application/octet-stream");
});

test("a question without a body sends none", async () => {
  const fetch = answer(200, "[]");
  vi.stubGlobal("fetch", fetch);
  expect(await api.tracks()).toEqual([]);
  expect(fetch).toHaveBeenCalledWith("/api/tracks", { method: "GET" });
});
