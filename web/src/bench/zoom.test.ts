import { expect, test } from "vitest";
import { within, zoomed } from "./useZoom";

test("the place under the pointer stays where it is", () => {
  expect(zoomed([0, 1000], 0.5, 250, [0, 4000], 5)).toEqual([125, 625]);
});

test("it comes no nearer than its least and goes no farther than its ends", () => {
  expect(zoomed([100, 110], 0.01, 105, [0, 4000], 5)).toEqual([102.5, 107.5]);
  expect(zoomed([0, 1000], 100, 250, [0, 4000], 5)).toEqual([0, 4000]);
});

test("what is moved over an end stops there", () => {
  expect(within([-50, 150], [0, 1000])).toEqual([0, 200]);
  expect(within([900, 1100], [0, 1000])).toEqual([800, 1000]);
});
