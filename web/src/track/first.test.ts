import { expect, test } from "vitest";
import { afterSound, forTheEar } from "./first";

const settle = () => new Promise((resolve) => setTimeout(resolve, 5));

test("pictures wait for sound that is on its way, and go on when it fails too", async () => {
  const done: string[] = [];
  const ends: (() => void)[] = [];
  const sound = (ok: boolean) =>
    forTheEar(
      new Promise<void>((yes, no) => ends.push(() => (ok ? yes() : no(new Error("no"))))),
    ).catch(() => done.push("failed"));
  // The picture asks first, in the same turn: the sound goes first all the same.
  void afterSound().then(() => done.push("picture"));
  void sound(true);
  void sound(false);
  await settle();
  expect(done).toEqual([]);
  ends[0]?.();
  await settle();
  expect(done).toEqual([]);
  ends[1]?.();
  await settle();
  expect(done.sort()).toEqual(["failed", "picture"]);
  await afterSound();
});
