import { beforeEach, expect, test, vi } from "vitest";
import { Player, QUIETLY, type Hearing, type Pass } from "./player";

/** What Web Audio would be told, written down instead of played. */
class FakeNode {
  gain = {
    value: 1,
    setTargetAtTime: vi.fn((value: number) => (this.gain.value = value)),
    setValueAtTime: vi.fn(),
    linearRampToValueAtTime: vi.fn(),
    cancelScheduledValues: vi.fn(),
  };
  to: FakeNode[] = [];
  readonly options: Record<string, unknown>;
  /** As Web Audio's nodes: the context, then the options. */
  constructor(...given: unknown[]) {
    this.options = (given[1] ?? {}) as Record<string, unknown>;
    made.push(this);
  }
  connect(node: FakeNode): FakeNode {
    this.to.push(node);
    return node;
  }
}
class FakeSource extends FakeNode {
  started: number[] = [];
  stopped: number[] = [];
  start(...at: number[]) {
    this.started = at;
  }
  stop(at: number) {
    this.stopped.push(at);
  }
}
class FakeLimiter extends FakeNode {}
class FakeBuffer {
  data = new Float32Array();
  sides: number[] = [];
  copyToChannel(data: Float32Array, side = 0) {
    if (side === 0) this.data = data.slice();
    this.sides[side] = data[0] ?? 0;
  }
}

const made: FakeNode[] = [];
const context = {
  currentTime: 0,
  outputLatency: 0,
  destination: new FakeNode(),
  resume: vi.fn(),
  createGain: () => new FakeNode(),
  createBuffer: () => new FakeBuffer(),
  decodeAudioData: () => Promise.resolve(new FakeBuffer()),
};
const sources = () => made.filter((node): node is FakeSource => node instanceof FakeSource);
const RATE = 48_000;

/** Kick, bass and ducked bass; with `sides` what the other hits are, left and right. */
function loop(frames: number, sides = 0): Pass {
  const samples = new Float32Array((3 + sides) * frames);
  for (let part = 0; part < 3 + sides; part++)
    samples.fill(part + 1, part * frames, (part + 1) * frames);
  return { samples, frames, channels: [1, 1, 1, ...(sides ? [sides] : [])] };
}

beforeEach(() => {
  made.length = 0;
  context.currentTime = 0;
  vi.stubGlobal("AudioContext", function () {
    return context;
  });
  vi.stubGlobal("BiquadFilterNode", FakeNode);
  vi.stubGlobal("DynamicsCompressorNode", FakeLimiter);
  vi.stubGlobal("AudioBufferSourceNode", FakeSource);
});

/** The gain that a part's source runs into after its own fade. */
const partGain = (index: number) => sources()[index]?.to[0]?.to[0]?.gain.value;

test("three parts start together, each with its own samples", () => {
  const player = new Player();
  player.play(loop(RATE));
  expect(player.playing).toBe(true);
  expect(sources().map((source) => source.started)).toEqual([
    [0, 0],
    [0, 0],
    [0, 0],
  ]);
  const heads = sources().map((source) => (source.options.buffer as unknown as FakeBuffer).data[0]);
  expect(heads).toEqual([1, 2, 3]);
});

test("it starts quietly, through a limiter", () => {
  const player = new Player();
  player.play(loop(RATE));
  const limiter = made.find((node) => node instanceof FakeLimiter);
  expect(limiter?.to).toEqual([context.destination]);
  expect(limiter?.options.ratio).toBe(20);
  const master = made.find((node) => node.to.includes(limiter as FakeNode));
  expect(master?.gain.value).toBeCloseTo(10 ** (-18 / 20), 6);
  // Nothing reaches the loudspeakers past the limiter.
  expect(made.filter((node) => node.to.includes(context.destination))).toEqual([limiter]);
});

test.each<[Partial<Hearing>, number[]]>([
  [{}, [1, 0, 1]],
  [{ ducked: false }, [1, 1, 0]],
  [{ part: "kick" }, [1, 0, 0]],
  [{ part: "bass" }, [0, 0, 1]],
  [{ part: "bass", ducked: false }, [0, 1, 0]],
])("what is heard with %j", (changes, expected) => {
  const player = new Player();
  player.play(loop(RATE));
  player.set({ ...QUIETLY, ...changes });
  expect([0, 1, 2].map(partGain)).toEqual(expected);
});

test("the level match and the volume add up in decibels", () => {
  const player = new Player();
  player.play(loop(RATE));
  player.set({ ...QUIETLY, matchDb: -2, volumeDb: -6 });
  const limiter = made.find((node) => node instanceof FakeLimiter) as FakeNode;
  const master = made.find((node) => node.to.includes(limiter));
  expect(master?.gain.value).toBeCloseTo(10 ** (-8 / 20), 6);
});

test("other sound goes on at the same place of the loop, and the old one is let go", () => {
  const player = new Player();
  player.play(loop(2 * RATE));
  context.currentTime = 2.5;
  player.play(loop(2 * RATE));
  expect(sources()[0]?.stopped).toHaveLength(1);
  expect(sources()[3]?.started).toEqual([2.5, 0.5]);
  context.currentTime = 3;
  expect(player.positionMs()).toBeCloseTo(1000, 6);
});

test("a shorter loop is entered where it still is", () => {
  const player = new Player();
  player.play(loop(2 * RATE));
  context.currentTime = 1.5;
  player.play(loop(RATE));
  expect(sources()[3]?.started[1]).toBeCloseTo(0.5, 9);
});

test("after stop nothing sounds and there is no position", () => {
  const player = new Player();
  player.play(loop(RATE));
  player.stop();
  expect(player.playing).toBe(false);
  expect(player.positionMs()).toBeNull();
  expect(sources().every((source) => source.stopped.length === 1)).toBe(true);
});

test("one hit goes through the same limiter and leaves the loop alone", async () => {
  const player = new Player();
  player.play(loop(RATE));
  await player.once(new ArrayBuffer(44));
  const hit = sources()[3];
  expect(hit?.started).toEqual([]);
  expect(hit?.to[0]?.to.length).toBeGreaterThan(0);
  expect(player.playing).toBe(true);
  expect(made.filter((node) => node.to.includes(context.destination))).toHaveLength(1);
});

test("the other hits are a fourth part, two channels wide, heard only among all", () => {
  const player = new Player();
  player.play(loop(RATE, 2));
  expect(sources()).toHaveLength(4);
  const buffer = sources()[3]?.options.buffer as unknown as FakeBuffer;
  expect(buffer.sides).toEqual([4, 5]);
  player.set(QUIETLY);
  expect(partGain(3)).toBe(0);
  player.set({ ...QUIETLY, part: "all" });
  expect([0, 1, 2, 3].map(partGain)).toEqual([1, 0, 1, 1]);
});

test("mono makes one channel of what is two, before the limiter", () => {
  const player = new Player();
  player.play(loop(RATE, 2));
  const limiter = made.find((node) => node instanceof FakeLimiter) as FakeNode;
  const master = made.find((node) => node.to.includes(limiter)) as FakeNode & {
    channelCount: number;
    channelCountMode: string;
  };
  expect([master.channelCount, master.channelCountMode]).toEqual([2, "explicit"]);
  player.set({ ...QUIETLY, mono: true });
  expect(master.channelCount).toBe(1);
});
