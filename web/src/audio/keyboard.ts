/** A key that went down or up, at a time of the page's clock in ms. */
export interface Key {
  midi: number;
  /** 0 to 1. */
  velocity: number;
  down: boolean;
  at: number;
}

export type Keys = (key: Key) => void;

const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;

/** What a MIDI message says of a key; null where it is of something else (MIDI 1.0: status, key, velocity). */
export function keyOf(data: Uint8Array, at: number): Key | null {
  const [status = 0, midi = 0, value = 0] = data;
  const kind = status & 0xf0;
  if (kind !== NOTE_ON && kind !== NOTE_OFF) return null;
  return { midi, velocity: value / 127, down: kind === NOTE_ON && value > 0, at };
}

/** A keyboard that is none: it sends what one would send. */
export class SimulatedKeyboard {
  constructor(private readonly onKey: Keys) {}

  private send(status: number, midi: number, velocity: number, at: number): void {
    const key = keyOf(Uint8Array.of(status, midi, Math.round(velocity * 127)), at);
    if (key) this.onKey(key);
  }

  press(midi: number, velocity: number, at = performance.now()): void {
    this.send(NOTE_ON, midi, velocity, at);
  }

  lift(midi: number, at = performance.now()): void {
    this.send(NOTE_OFF, midi, 0, at);
  }
}

export interface Connected {
  names: string[];
  close: () => void;
}

/** Listens to every MIDI keyboard there is. Rejects with a plain sentence where there is no way to any. */
export async function connect(onKey: Keys, onNames: (names: string[]) => void): Promise<Connected> {
  if (!("requestMIDIAccess" in navigator))
    throw new Error("This browser reaches no MIDI keyboards. The keys of the computer play too.");
  const access = await navigator.requestMIDIAccess().catch(() => {
    throw new Error("The browser does not let the page listen to MIDI keyboards.");
  });
  const inputs = () => [...access.inputs.values()];
  const listen = () => {
    for (const input of inputs())
      input.onmidimessage = ({ data, timeStamp }) => {
        const key = data && keyOf(data, timeStamp);
        if (key) onKey(key);
      };
    onNames(names());
  };
  const names = () =>
    inputs()
      .filter(({ state }) => state === "connected")
      .map(({ name }) => name ?? "a keyboard");
  access.onstatechange = listen;
  listen();
  const close = () => {
    access.onstatechange = null;
    for (const input of inputs()) input.onmidimessage = null;
  };
  return { names: names(), close };
}
