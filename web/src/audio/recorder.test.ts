import { expect, test } from "vitest";
import { floatWav } from "./recorder";

test("what was recorded is a WAV that says what it holds", async () => {
  const pieces = [new Float32Array([0, 0.5]), new Float32Array([-1])];
  const view = new DataView(await floatWav(pieces, 44_100).arrayBuffer());
  const text = (at: number, count: number) =>
    String.fromCharCode(...Array.from({ length: count }, (_, n) => view.getUint8(at + n)));
  // RIFF/WAVE multimedia registration: format 3 is IEEE float; sizes count what follows.
  expect(text(0, 4) + text(8, 8)).toBe("RIFFWAVEfmt ");
  expect(view.getUint16(20, true)).toBe(3);
  expect(view.getUint32(24, true)).toBe(44_100);
  expect(view.getUint32(40, true)).toBe(12);
  expect(view.byteLength).toBe(44 + 12);
  expect(view.getUint32(4, true)).toBe(view.byteLength - 8);
  expect(view.getFloat32(48, true)).toBe(0.5);
  expect(view.getFloat32(52, true)).toBe(-1);
});
