import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Sound } from "../../api/client";
import { judging } from "../../api/judging";
import { useDesk } from "../../track/context";
import { fileOf } from "./useSounds";

const LETTERS = ["A", "B", "C"];

interface Props {
  sounds: Sound[];
  onHear: (sound: Sound, label: string) => void;
  onChoose: (sound: Sound) => void;
  onEnd: () => void;
}

/** In an order that nobody knows. */
const shuffled = (sounds: Sound[]) =>
  sounds
    .map((sound) => ({ sound, by: crypto.getRandomValues(new Uint32Array(1))[0] ?? 0 }))
    .sort((a, b) => a.by - b.by)
    .map(({ sound }) => sound);

/** Sounds without their names: the ear alone chooses, once or as often as it takes to be sure of itself. */
export function Blind({ sounds, onHear, onChoose, onEnd }: Props) {
  const { track, say } = useDesk();
  const [order, setOrder] = useState(() => shuffled(sounds));
  const [heard, setHeard] = useState<number | null>(null);
  const [taken, setTaken] = useState<string[]>([]);
  const wanted = heard === null ? undefined : order[heard];
  const again = () => {
    if (!wanted) return;
    setTaken((old) => [...old, wanted.hash]);
    setOrder(shuffled(sounds));
    setHeard(null);
  };
  const choose = () => {
    if (!wanted) return;
    const all = [...taken, wanted.hash];
    const counts = sounds.map((sound) => ({
      sound,
      count: all.filter((hash) => hash === sound.hash).length,
    }));
    const most = Math.max(...counts.map(({ count }) => count));
    // Of those that were taken as often, the last choice counts.
    const first = counts.find(({ sound, count }) => count === most && sound === wanted);
    const best = (first ?? counts.find(({ count }) => count === most))?.sound ?? wanted;
    const told = counts.map(({ sound, count }) => `${fileOf(sound)} ${count}`).join(", ");
    judging
      .addEntry(
        track.id,
        "blind",
        `Blind, taken in ${all.length === 1 ? "one round" : `${all.length} rounds`}: ${told}.`,
      )
      .catch((error: Error) => say(error.message));
    onChoose(best);
  };
  return (
    <section className="stock-blind" aria-label="Compare blind">
      <p>Each at the same loudness, in the same place. Which of them is it?</p>
      {order.map((sound, n) => (
        <Button
          key={n}
          variant={heard === n ? "secondary" : "outline-secondary"}
          aria-pressed={heard === n}
          onClick={() => {
            setHeard(n);
            onHear(sound, LETTERS[n] ?? "");
          }}
        >
          {LETTERS[n]}
        </Button>
      ))}
      <Button variant="primary" disabled={!wanted} onClick={choose}>
        This one
      </Button>
      <Button
        variant="outline-primary"
        disabled={!wanted}
        title="Shuffled anew: what you take most often is what you like"
        onClick={again}
      >
        This one, and again
      </Button>
      <span role="status">{taken.length > 0 && `round ${taken.length + 1}`}</span>
      <Button variant="outline-secondary" onClick={onEnd}>
        Leave
      </Button>
    </section>
  );
}
