import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Hit, type Voice } from "../../api/client";
import { SimulatedKeyboard, connect, type Connected, type Key } from "../../audio/keyboard";
import { useDesk } from "../../track/context";
import { editBass } from "../../track/lines";
import { editHit, hitOf } from "../../track/parts";
import { reachOf } from "../../track/pattern";
import { heldFor, onGrid, overdubbed, type PlayedNote } from "../../track/played";
import { millis } from "../scale";

/** Strokes are fetched at so many velocities; what is recorded keeps its own. */
const VELOCITIES = 8;
const SIXTEENTH = 0.25;
/** The lowest key of all strikes a hit as it is. */
export const OWN_PITCH = 0;

export interface Hand {
  /** The keys of the screen and of the computer. */
  keys: SimulatedKeyboard;
  /** MIDI keyboards that are listened to; null where nobody asked for any. */
  names: string[] | null;
  find: () => void;
  recording: boolean;
  record: () => void;
  grid: boolean;
  setGrid: (grid: boolean) => void;
}

/** A part played by hand, over the loop or by itself, and recorded into its pattern. */
export function useHand(part: Hit | Voice, own: number | null): Hand {
  const { state, shown, facts, change, say, listening, warn } = useDesk();
  const { player, playing, start } = listening;
  const [sounds] = useState(() => new Map<string, Promise<Float32Array[]>>());
  const [recording, setRecording] = useState(false);
  const [grid, setGrid] = useState(false);
  const [names, setNames] = useState<string[] | null>(null);
  const down = useRef(new Map<number, { at: number | null; velocity: number }>());
  const notes = useRef<PlayedNote[]>([]);
  const loop = 4 * facts.bars;

  const sounding = useCallback(
    (midi: number, velocity: number): Promise<Float32Array[]> => {
      const near = Math.max(1, Math.round(velocity * VELOCITIES)) / VELOCITIES;
      const semitones = own === null || midi === OWN_PITCH ? 0 : midi - own;
      const high = part.part === "line" ? midi : semitones;
      const name = JSON.stringify([part, shown.brief, high, near]);
      const known = sounds.get(name);
      if (known) return known;
      const wav =
        part.part === "line"
          ? api.note(shown, part.id, midi, near)
          : api.hit(shown.brief, part, { velocity: near, semitones });
      const read = wav.then((found) => player.read(found));
      read.catch(() => sounds.delete(name));
      sounds.set(name, read);
      return read;
    },
    [own, part, player, shown, sounds],
  );

  const beatAt = (stamp: number) => {
    const ms = player.heardAtMs(stamp);
    return ms === null ? null : ms / facts.beat_ms;
  };
  const key = useRef<(key: Key) => void>(() => undefined);
  useEffect(() => {
    key.current = ({ midi, velocity, down: pressed, at }) => {
      const name = `${part.id} ${midi}`;
      if (pressed) {
        warn();
        down.current.set(midi, { at: recording ? beatAt(at) : null, velocity });
        sounding(midi, velocity)
          .then((channels) => {
            if (part.part === "hit" || down.current.has(midi)) player.strike(channels, name);
          })
          .catch((error: Error) => say(error.message));
        return;
      }
      const struck = down.current.get(midi);
      down.current.delete(midi);
      if (part.part === "line") player.release(name);
      const up = beatAt(at);
      if (struck === undefined || struck.at === null || up === null) return;
      const beats = heldFor(struck.at, up, loop);
      notes.current.push({ at: struck.at, beats, midi, velocity: struck.velocity });
    };
  });
  const [keys] = useState(() => new SimulatedKeyboard((one) => key.current(one)));

  const connected = useRef<Connected | null>(null);
  useEffect(() => () => connected.current?.close(), []);
  const find = () => {
    connect((one) => key.current(one), setNames)
      .then((found) => {
        connected.current?.close();
        connected.current = found;
        setNames(found.names);
      })
      .catch((error: Error) => say(error.message));
  };

  const take = async (): Promise<string> => {
    const played = notes.current;
    notes.current = [];
    if (played.length === 0) return "Nothing was played: the pattern is as it was.";
    const given = (grid ? onGrid(played, SIXTEENTH, loop) : [...played]).sort(
      (a, b) => a.at - b.at,
    );
    const late = player.delayMs;
    const told = late === null ? "" : ` ${millis(late)} of delay are taken out.`;
    if (part.part === "hit") {
      const fresh = await api.fitStrokes(state.brief, part, given);
      const reach = reachOf(SIXTEENTH, facts.beat_ms);
      change((now) =>
        editHit(part.id, (old) => ({ ...old, ...overdubbed(hitOf(now, part.id), fresh, reach) }))(
          now,
        ),
      );
      return [`${fresh.steps.length} strokes are in the pattern.${told}`, ...fresh.said].join(" ");
    }
    const { octave, bars, pattern, said } = await api.fitMidi(state.brief, given);
    change(editBass(part.id, { octave, bars, pattern }));
    return [`${pattern.length} notes are the line’s now.${told}`, ...said].join(" ");
  };
  const end = () => {
    setRecording(false);
    take()
      .then(say)
      .catch((error: Error) => say(error.message));
  };
  const record = () => {
    if (recording) return end();
    notes.current = [];
    setRecording(true);
    start();
  };
  // What was played until the loop is stopped is taken.
  const was = useRef(playing);
  useEffect(() => {
    if (was.current && !playing && recording) end();
    was.current = playing;
  });
  return { keys, names, find, recording, record, grid, setGrid };
}
