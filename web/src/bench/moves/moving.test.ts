import { expect, test } from "vitest";
import type { Control, ControlSheet, MovePoint, Stage } from "../../api/client";
import type { Part } from "../../track/parts";
import {
  SHAPES,
  longestWay,
  movables,
  movedOf,
  pointMoved,
  targetOf,
  withChain,
  withMove,
  withMovePoint,
  withoutMovePoint,
} from "./moving";

const control = (
  name: string,
  low: number,
  high: number,
  more: Partial<Control> = {},
): Control => ({
  name,
  label: name,
  help: "",
  group: "",
  unit: "dB",
  low,
  high,
  step: 0.1,
  scale: "linear",
  main: true,
  off: null,
  movable: true,
  default: 0,
  ...more,
});
const GAIN = control("gain_db", -60, 24);
const CUT = control("lowpass_hz", 40, 20000, { unit: "Hz", scale: "log", step: 1, off: 20000 });
const sheet = (...controls: Control[]): ControlSheet => ({ controls, choices: [] });
const SHEETS = {
  place: sheet(GAIN, control("width", 0, 2, { movable: false })),
  strokes: sheet(control("semitones", -24, 24, { unit: "st" })),
  "stage:equaliser": sheet(CUT),
};
const eq = { stage: "equaliser", id: "", bypass: false, lowpass_hz: 900 } as Stage;
const part = {
  part: "stem",
  id: "pad",
  place: { gain_db: -3 },
  stages: [eq, { ...eq, id: "other" }],
  after: [],
  moves: [],
} as unknown as Part;
const every = (one: Part) => movables(one, SHEETS);
const along = (...values: number[]): MovePoint[] =>
  values.map((value, n) => ({ at: n / (values.length - 1), value, bend: 0 }));

test("what can move is the place, the stages, a hit’s strokes and shape, a line’s notes", () => {
  expect(every(part).map(({ group, base }) => [group, base])).toEqual([
    ["Place", -3],
    ["1 equaliser", 900],
    ["2 equaliser", 900],
  ]);
  const hit = { ...part, part: "hit", chain: [eq] } as unknown as Part;
  expect(every(hit).map(({ group }) => group)).toEqual([
    "Place",
    "Strokes",
    "1 equaliser of the shape",
    "1 equaliser",
    "2 equaliser",
  ]);
  const lines = ["made", "played", "rumble", "imported"].map(
    (kind) => ({ ...part, part: "line", bass: { kind } }) as unknown as Part,
  );
  expect(lines.map((one) => every(one).some(({ group }) => group === "Notes"))).toEqual([
    true,
    true,
    false,
    false,
  ]);
});

test("of a shape every control can move, and its move goes with its stage", () => {
  const still = sheet(control("width", 0, 2, { movable: false }));
  const hit = { ...part, part: "hit", chain: [eq] } as unknown as Part;
  const one = movables(hit, { "stage:equaliser": still })[0]!;
  expect([one.group, one.control.name]).toEqual(["1 equaliser of the shape", "width"]);
  const moving = { ...hit, ...withMove(hit, one) } as Part & { chain: Stage[] };
  expect(movedOf(moving, moving.chain[0]!.id)).toEqual(["width"]);
  expect(withChain(moving, "chain", []).moves).toEqual([]);
});

test("a stage gets an id by which its move knows it, and its move goes with it", () => {
  const moving = { ...part, ...withMove(part, every(part)[1]!) } as Part;
  const id = moving.stages[0]!.id;
  expect(id).not.toBe("");
  expect(moving.moves[0]).toMatchObject({ of: id, control: "lowpass_hz" });
  expect(movedOf(moving, id)).toEqual(["lowpass_hz"]);
  expect(targetOf(moving, moving.moves[0]!, every(moving))?.group).toBe("1 equaliser");
  // The other way round it is still its own.
  const turned = {
    ...moving,
    ...withChain(moving, "stages", [...moving.stages].reverse()),
  } as Part;
  expect(targetOf(turned, turned.moves[0]!, every(turned))?.group).toBe("2 equaliser");
  expect(withChain(moving, "stages", moving.stages.slice(1)).moves).toEqual([]);
  expect(withChain(moving, "stages", moving.stages.slice(0, 1)).moves).toBeUndefined();
});

test("shapes run from one end of the way to the other inside the range", () => {
  for (const one of every(part))
    for (const [, shape] of SHAPES) {
      const points = shape(one);
      expect(points[0]!.at).toBe(0);
      expect(points.at(-1)!.at).toBe(1);
      for (const { value } of points) {
        expect(value).toBeGreaterThanOrEqual(one.control.low);
        expect(value).toBeLessThanOrEqual(one.control.high);
      }
    }
});

test("points stay between their neighbours and in range, the ends where they are", () => {
  const points = along(0, -12, 0);
  expect(pointMoved(points, 1, { at: 2, value: -90 }, GAIN)[1]).toMatchObject({
    at: 0.999,
    value: -60,
  });
  expect(pointMoved(points, 0, { at: 0.4, value: 3 }, GAIN)[0]).toMatchObject({ at: 0, value: 3 });
  expect(withMovePoint(points, 0.25, 0.5, GAIN)).toHaveLength(4);
  expect(withMovePoint(points, 0.5004, 0.5, GAIN)).toBe(points);
  expect(withoutMovePoint(points, 1)).toHaveLength(2);
  expect(withoutMovePoint(points, 0)).toHaveLength(3);
  expect(
    longestWay([
      { at: 0, value: 0, bend: 0 },
      { at: 0.2, value: 0, bend: 0 },
      { at: 1, value: 0, bend: 0 },
    ]),
  ).toBeCloseTo(0.6);
  let many = points;
  for (let n = 0; n < 60; n++) many = withMovePoint(many, longestWay(many), 0.5, GAIN);
  expect(many).toHaveLength(32);
});
