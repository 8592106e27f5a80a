import type { Control, ControlSheet, Move, MovePoint, Stage } from "../../api/client";
import { LEAST_BETWEEN, MOST_MOVE_POINTS } from "../../api/limits";
import { newId, type Part } from "../../track/parts";
import { STAGE_NAMES } from "../chain/names";
import { limited } from "../beat/frame";
import { onStep, valueAt } from "../scale";

type Chain = "chain" | "stages" | "after";

/** A control that a move may belong to. */
export interface Movable {
  /** Place, strokes, notes, or the name of a stage and its number in its chain. */
  group: string;
  control: Control;
  of: "place" | "strokes" | { chain: Chain; n: number };
  /** Where it stands while it does not move. */
  base: number;
}

/** A part’s stages: of its shape, which only hits have, of its chain, or behind its duckings. */
const stagesOf = (part: Part, chain: Chain): Stage[] =>
  chain !== "chain" ? part[chain] : part.part === "hit" ? part.chain : [];

/** Every control of a part that can move: of its shape any, for every stroke may have its own. */
export function movables(part: Part, sheets: Record<string, ControlSheet>): Movable[] {
  const found = (sheet: string, recipe: object, group: string, of: Movable["of"], any = false) =>
    (sheets[sheet]?.controls ?? [])
      .filter(({ movable }) => any || movable)
      .map((control) => ({
        group,
        control,
        of,
        base: (recipe as Record<string, number>)[control.name] ?? control.default,
      }));
  const inChain = (chain: Chain) =>
    stagesOf(part, chain).flatMap((stage, n) => {
      const name = `${n + 1} ${STAGE_NAMES[stage.stage]}`;
      const of = { chain, n };
      return chain === "chain"
        ? found(`stage:${stage.stage}`, stage, `${name} of the shape`, of, true)
        : found(`stage:${stage.stage}`, stage, name, of);
    });
  const written =
    part.part === "line" && (part.bass.kind === "made" || part.bass.kind === "played");
  return [
    ...found("place", part.place, "Place", "place"),
    ...(part.part === "hit" ? found("strokes", {}, "Strokes", "strokes") : []),
    ...(written ? found("strokes", {}, "Notes", "strokes") : []),
    ...inChain("chain"),
    ...inChain("stages"),
    ...inChain("after"),
  ];
}

const idOf = (part: Part, of: Movable["of"]) =>
  typeof of === "string" ? of : (stagesOf(part, of.chain)[of.n]?.id ?? "");

/** What a move moves; undefined where its stage is not in this section. */
export const targetOf = (part: Part, move: Move, all: Movable[]) =>
  all.find(({ of, control }) => idOf(part, of) === move.of && control.name === move.control);

/** Whether a control has a move already. */
export const moves = (part: Part, one: Movable) =>
  part.moves.some(({ of, control }) => of === idOf(part, one.of) && control === one.control.name);

/** Names of a stage's controls that moves have taken over. */
export const movedOf = (part: Part, of: string) =>
  of === "" ? [] : part.moves.filter((move) => move.of === of).map(({ control }) => control);

/** Whether a control is read where a stroke starts: of the shape, or of the strokes. */
const isRead = (of: Movable["of"]) =>
  typeof of === "string" ? of === "strokes" : of.chain === "chain";

/** A part with a move more; its stage gets an id by which the move knows it. */
export function withMove(part: Part, one: Movable): Partial<Part> {
  const { of, control } = one;
  const fresh = (id: string): Move => ({
    of: id,
    control: control.name,
    // What is read where a stroke starts is the same at every beat of a quarter.
    over: control.unit === "dB" && !isRead(of) ? "1/4" : "1 bar",
    points: SHAPES[0]![1](one),
  });
  if (typeof of === "string") return { moves: [...part.moves, fresh(of)] };
  const id = idOf(part, of) || newId();
  const chain = stagesOf(part, of.chain).map((stage, n) => (n === of.n ? { ...stage, id } : stage));
  return { [of.chain]: chain, moves: [...part.moves, fresh(id)] };
}

/** A chain changed: the moves of stages that are gone go with them. */
export function withChain(
  part: Part,
  chain: Chain,
  next: Stage[],
): Partial<Record<Chain, Stage[]> & Pick<Part, "moves">> {
  const there = new Set(next.map(({ id }) => id));
  const gone = new Set(
    stagesOf(part, chain)
      .map(({ id }) => id)
      .filter((id) => id && !there.has(id)),
  );
  const kept = part.moves.filter(({ of }) => !gone.has(of));
  return { [chain]: next, ...(kept.length < part.moves.length && { moves: kept }) };
}

/** Between what a shape runs: from where a control does little to where it stands. */
function between({ control, base }: Movable): [number, number] {
  if (control.unit === "dB") return [onStep(control, Math.max(control.low, base - 18)), base];
  if (control.scale === "log") return [valueAt(control, 0.4), valueAt(control, 0.85)];
  if (control.off === control.low) return [control.low, base || control.high];
  return [valueAt(control, 0.3), valueAt(control, 0.7)];
}

const along = (...values: number[]): MovePoint[] =>
  values.map((value, n) => ({ at: n / (values.length - 1), value, bend: 0 }));

/** Shapes to begin from, by their names. */
export const SHAPES: [string, (one: Movable) => MovePoint[]][] = [
  ["down and up", (one) => along(between(one)[1], between(one)[0], between(one)[1])],
  ["up and down", (one) => along(between(one)[0], between(one)[1], between(one)[0])],
  ["rising", (one) => along(...between(one))],
  ["falling", (one) => along(...(between(one).reverse() as [number, number]))],
  [
    "on and off",
    (one) => {
      const [low, high] = between(one);
      return [
        { at: 0, value: high, bend: 0 },
        { at: 0.499, value: high, bend: 0 },
        { at: 0.5, value: low, bend: 0 },
        { at: 0.999, value: low, bend: 0 },
        { at: 1, value: high, bend: 0 },
      ];
    },
  ],
];

/** One point moved between its neighbours and inside the control’s range; the ends stay where they are. */
export function pointMoved(
  points: MovePoint[],
  n: number,
  to: Partial<MovePoint>,
  control: Control,
): MovePoint[] {
  const old = points[n];
  if (!old) return points;
  const low = n === 0 ? 0 : (points[n - 1]?.at ?? 0) + LEAST_BETWEEN;
  const high = n === points.length - 1 ? 1 : (points[n + 1]?.at ?? 1) - LEAST_BETWEEN;
  const end = n === 0 || n === points.length - 1;
  const point = {
    at: end ? old.at : Number(limited(to.at ?? old.at, low, high).toFixed(4)),
    value: onStep(control, limited(to.value ?? old.value, control.low, control.high)),
    bend: Number(limited(to.bend ?? old.bend, -1, 1).toFixed(2)),
  };
  return points.map((one, k) => (k === n ? point : one));
}

/** A point more, where there is room for it; the same points where there is none. */
export function withMovePoint(
  points: MovePoint[],
  at: number,
  place: number,
  control: Control,
): MovePoint[] {
  const n = points.findIndex((point) => point.at > at);
  const before = points[n - 1];
  const after = points[n];
  if (!before || !after || points.length >= MOST_MOVE_POINTS) return points;
  if (at - before.at < LEAST_BETWEEN || after.at - at < LEAST_BETWEEN) return points;
  const point = {
    at: Number(at.toFixed(4)),
    value: valueAt(control, limited(place, 0, 1)),
    bend: 0,
  };
  return [...points.slice(0, n), point, ...points.slice(n)];
}

/** A point less; the ends stay. */
export const withoutMovePoint = (points: MovePoint[], n: number): MovePoint[] =>
  n <= 0 || n >= points.length - 1 ? points : points.filter((_, k) => k !== n);

/** The middle of the longest way between two points. */
export function longestWay(points: MovePoint[]): number {
  const ways = points.slice(1).map((point, n) => point.at - points[n]!.at);
  const n = ways.indexOf(Math.max(...ways));
  return points[n]!.at + ways[n]! / 2;
}
