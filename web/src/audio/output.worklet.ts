import { LISTENING } from "../api/limits";
import type { Reading } from "./messages";
import { Limiter, Meter } from "./output";

/** How often it says what left, in frames. */
const SAYS = 4_800;

class OutputProcessor extends AudioWorkletProcessor {
  private readonly limiter = new Limiter(LISTENING);
  private readonly meter = new Meter(LISTENING);
  private since = 0;

  process([given]: Float32Array[][], [out]: Float32Array[][]): boolean {
    const [left, right] = out ?? [];
    if (!left || !right) return true;
    const [one, other = one] = given ?? [];
    if (one && other) {
      left.set(one);
      right.set(other);
    }
    this.limiter.process(left, right);
    this.meter.push(left, right);
    if ((this.since += left.length) >= SAYS) {
      this.since = 0;
      this.port.postMessage({
        ...this.meter.read(),
        taken: this.limiter.taken(),
      } satisfies Reading);
    }
    return true;
  }
}

registerProcessor("output", OutputProcessor);
