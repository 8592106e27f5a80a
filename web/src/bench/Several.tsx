import { useState } from "react";
import { Button } from "react-bootstrap";
import type { ImportedAudio } from "../api/client";
import type { Many } from "../track/brought";
import { useDesk } from "../track/context";
import { nameOf } from "../track/parts";

interface Props {
  files: ImportedAudio[];
  onPut: (as: Many) => void;
  onTry: () => void;
  onLeave: () => void;
}

/** Several files came at once: what they are is asked here, before anything is changed. */
export function Several({ files, onPut, onTry, onLeave }: Props) {
  const { shown, hitId, layerAt } = useDesk();
  const [all, setAll] = useState(false);
  const hit = nameOf(shown, hitId);
  const names = files.map(({ name }) => name);
  const words: [Many, string][] = [
    ["layers", `layers of ${hit}`],
    ["hits", "hits of their own"],
    ["takes", `takes of layer ${layerAt + 1} of ${hit}`],
    ["stems", "stems"],
  ];
  return (
    <section className="several" aria-label="Several files">
      <p>
        <b>{files.length === 1 ? "1 file" : `${files.length} files`}</b>,{" "}
        {all ? names.join(", ") : names.slice(0, 3).join(", ")}
        {names.length > 3 && !all && (
          <Button size="sm" variant="link" onClick={() => setAll(true)}>
            and {names.length - 3} more
          </Button>
        )}
        . They are
      </p>
      {words.map(([as, text]) => (
        <Button key={as} size="sm" variant="outline-primary" onClick={() => onPut(as)}>
          {text}
        </Button>
      ))}
      <Button size="sm" variant="outline-primary" onClick={onTry}>
        to be tried in the loop
      </Button>
      <Button size="sm" variant="outline-secondary" onClick={onLeave}>
        none of these
      </Button>
    </section>
  );
}
