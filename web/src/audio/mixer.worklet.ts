import { LISTENING } from "../api/limits";
import type { Place, ToMixer } from "./messages";
import { Mixer } from "./mixer";

/** How often it says where it is, in frames. */
const SAYS = 12_000;

class MixerProcessor extends AudioWorkletProcessor {
  private readonly mixer = new Mixer(
    Math.round((LISTENING.fade_ms / 1000) * LISTENING.rate),
    LISTENING.rate,
  );
  private readonly sounds = new Map<string, Float32Array[]>();
  private since = 0;

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<ToMixer>) => this.told(data);
  }

  private told(message: ToMixer): void {
    if ("sounds" in message)
      for (const [key, channels] of message.sounds) this.sounds.set(key, channels);
    if ("forget" in message) for (const key of message.forget) this.sounds.delete(key);
    if ("plan" in message) {
      const parts = message.plan.map((one) => ({
        ...one,
        channels: this.sounds.get(one.key) ?? [],
      }));
      this.mixer.plan(parts, message.frames, message.beats);
      this.since = SAYS;
    }
    if ("gains" in message) this.mixer.gains(message.gains);
    if ("once" in message) this.mixer.once(message.once, message.key);
    if ("release" in message) this.mixer.release(message.release);
    if ("click" in message) this.mixer.click(message.click);
    if ("stop" in message) this.mixer.stop();
  }

  process(_: unknown, [out]: Float32Array[][]): boolean {
    const [left, right] = out ?? [];
    if (!left || !right) return true;
    if (this.mixer.playing && (this.since += left.length) >= SAYS) {
      this.since = 0;
      this.port.postMessage({ at: this.mixer.at, frame: currentFrame } satisfies Place);
    }
    this.mixer.render(left, right);
    return true;
  }
}

registerProcessor("mixer", MixerProcessor);
