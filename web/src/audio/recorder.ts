import worklet from "./capture.worklet.ts?worker&url";

/** From the microphone to a WAV file, without anything done to the sound on the way. */

const CLIPPED = 0.99;
const LONGEST_S = 60;

export interface Level {
  peak: number;
  clipped: boolean;
  seconds: number;
}

/** 32-bit float WAV of one channel. */
export function floatWav(pieces: Float32Array[], rate: number): Blob {
  const frames = pieces.reduce((sum, piece) => sum + piece.length, 0);
  const head = new DataView(new ArrayBuffer(44));
  const text = (at: number, letters: string) =>
    [...letters].forEach((letter, n) => head.setUint8(at + n, letter.charCodeAt(0)));
  text(0, "RIFF");
  head.setUint32(4, 36 + 4 * frames, true);
  text(8, "WAVEfmt ");
  head.setUint32(16, 16, true);
  head.setUint16(20, 3, true);
  head.setUint16(22, 1, true);
  head.setUint32(24, rate, true);
  head.setUint32(28, 4 * rate, true);
  head.setUint16(32, 4, true);
  head.setUint16(34, 32, true);
  text(36, "data");
  head.setUint32(40, 4 * frames, true);
  return new Blob([head, ...(pieces as BlobPart[])], { type: "audio/wav" });
}

export class Recorder {
  private context: AudioContext | null = null;
  private stream: MediaStream | null = null;
  private pieces: Float32Array[] = [];
  private clipped = false;

  constructor(private readonly onLevel: (level: Level) => void) {}

  /** Asks for the microphone and begins; rejects with a plain sentence where there is none. */
  async start(): Promise<void> {
    try {
      this.stream = await navigator.mediaDevices.getUserMedia({
        audio: {
          channelCount: 1,
          echoCancellation: false,
          noiseSuppression: false,
          autoGainControl: false,
        },
      });
    } catch {
      throw new Error(
        "There is no microphone to record from, or the browser was not allowed to use it. " +
          "The simulated workshop recording can stand in, or a file of your own.",
      );
    }
    const context = (this.context = new AudioContext());
    await context.audioWorklet.addModule(worklet);
    const capture = new AudioWorkletNode(context, "capture", { numberOfOutputs: 0 });
    this.pieces = [];
    this.clipped = false;
    capture.port.onmessage = ({ data }: MessageEvent<Float32Array>) => {
      if (this.seconds < LONGEST_S) this.pieces.push(data);
      const peak = data.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0);
      this.clipped ||= peak >= CLIPPED;
      this.onLevel({ peak, clipped: this.clipped, seconds: this.seconds });
    };
    context.createMediaStreamSource(this.stream).connect(capture);
  }

  private get seconds(): number {
    const frames = this.pieces.reduce((sum, piece) => sum + piece.length, 0);
    return frames / (this.context?.sampleRate ?? 48_000);
  }

  /** Ends and gives what was recorded. */
  async stop(): Promise<Blob> {
    const rate = this.context?.sampleRate ?? 48_000;
    this.stream?.getTracks().forEach((track) => track.stop());
    await this.context?.close();
    this.context = this.stream = null;
    return floatWav(this.pieces, rate);
  }
}
