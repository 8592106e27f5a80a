import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Sound } from "../../api/client";

const LETTERS = ["A", "B", "C"];

interface Props {
  sounds: Sound[];
  onHear: (sound: Sound, label: string) => void;
  onChoose: (sound: Sound) => void;
  onEnd: () => void;
}

/** Three sounds without their names, in an order that nobody knows: the ear alone chooses. */
export function Blind({ sounds, onHear, onChoose, onEnd }: Props) {
  const [order] = useState(() =>
    sounds
      .map((sound) => ({ sound, by: crypto.getRandomValues(new Uint32Array(1))[0] ?? 0 }))
      .sort((a, b) => a.by - b.by)
      .map(({ sound }) => sound),
  );
  const [heard, setHeard] = useState<number | null>(null);
  return (
    <section className="stock-blind" aria-label="Compare blind">
      <p>Each at the same loudness, in the same place. Which of them is it?</p>
      {order.map((sound, n) => (
        <Button
          key={sound.hash}
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
      <Button
        variant="primary"
        disabled={heard === null}
        onClick={() => heard !== null && order[heard] && onChoose(order[heard])}
      >
        This one
      </Button>
      <Button variant="outline-secondary" onClick={onEnd}>
        Leave
      </Button>
    </section>
  );
}
