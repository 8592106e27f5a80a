import { Button } from "react-bootstrap";
import { api, type Aspect } from "../api/client";
import { useDesk } from "../track/context";
import { nameOf } from "../track/parts";

const WORDS: Record<Aspect, string> = {
  sound: "sound",
  shape: "shape",
  pattern: "pattern",
  chain: "chain of its loop",
  place: "place",
  after: "chain behind the duckings",
  moves: "moves",
  mute: "mute",
};

/** What a part, or a ducking, has as its own in this section; each can follow main again. */
export function Differs({ of }: { of: string }) {
  const { track, shown, ask, say } = useDesk();
  const here = track.sections.find(({ id }) => id === track.section);
  const main = track.sections.find(({ id }) => id === track.main);
  const own = here?.differs.filter(({ part }) => part === of) ?? [];
  if (!here || !main || own.length === 0) return null;
  return (
    <p className="differs" role="group" aria-label={`What ${here.name} has of its own`}>
      In {here.name} of its own:{" "}
      {own.map(({ aspect }) => (
        <Button
          key={aspect ?? "ducking"}
          size="sm"
          variant="outline-secondary"
          title={`Follow ${main.name} again`}
          aria-label={`Let the ${aspect ? WORDS[aspect] : "ducking"} of ${nameOf(shown, of)} follow ${main.name} again`}
          onClick={() => {
            ask(
              (id, revision, section) => api.follow(id, section, of, aspect, revision),
              () => say(`It follows ${main.name} again. Undo takes it back.`),
            );
          }}
        >
          {aspect ? WORDS[aspect] : "ducking"} ↩
        </Button>
      ))}
    </p>
  );
}
