/** What the player tells the mixer, which runs on the audio thread. */
export type ToMixer =
  | { sounds: [key: string, channels: Float32Array[]][] }
  | { forget: string[] }
  | { plan: { part: string; key: string; gain: number }[]; frames: number; beats: number }
  | { gains: Record<string, number> }
  | { once: Float32Array[]; key: string }
  | { release: string }
  | { click: number[] }
  | { stop: true };

/** Where the mixer was at a frame of the context. */
export interface Place {
  at: number;
  frame: number;
}

/** What left for the loudspeakers since the last time. */
export interface Reading {
  lufs: number;
  dbtp: number;
  /** The most that the limiter took, in dB. */
  taken: number;
}
