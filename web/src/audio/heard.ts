import type { Hearing, PlayedPart } from "./player";

type Sided = Pick<PlayedPart, "part" | "side">;

/**
 * Which parts of a pass are heard: the sum stands for all of them where something is done to it; what is heard
 * in a place is one already.
 */
export function heardOf({ part, solo }: Pick<Hearing, "part" | "solo">, parts: Sided[]): string[] {
  const sum = parts.filter(({ side }) => side === "sum");
  const there = parts.filter(({ side }) => side === "room");
  if (there.length > 0) return there.map((one) => one.part);
  const single = parts.filter(({ side }) => side !== "sum");
  const everything = sum.length > 0 ? sum : single;
  const alone = parts.filter((one) => one.part === solo);
  const heard =
    solo === "the-sum" || (solo === null && part === "all")
      ? everything
      : solo !== null
        ? alone
        : single.filter(({ side }) => side === part || (part === "both" && side !== "rest"));
  return heard.map((one) => one.part);
}
