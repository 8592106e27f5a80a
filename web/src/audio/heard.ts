import type { Hearing, PlayedPart } from "./player";

type Sided = Pick<PlayedPart, "part" | "side">;

/** Which parts of a pass are heard: the sum stands for all of them where something is done to it. */
export function heardOf({ part, solo }: Pick<Hearing, "part" | "solo">, parts: Sided[]): string[] {
  const sum = parts.filter(({ side }) => side === "sum");
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
