import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type FiledView, type Hit } from "../../api/client";
import { MOST_AT_ONCE } from "../../api/limits";
import { save } from "../../bench/save";
import { useDesk } from "../../track/context";

interface Props {
  hit: Hit;
  layer: number;
  amount: number;
  locked: string[];
  seed: number;
}

/** Many variations at once: filed under names by a scheme, and handed out as a kit. */
export function Batch({ hit, layer, amount, locked, seed }: Props) {
  const { shown, say } = useDesk();
  const [count, setCount] = useState(24);
  const [scheme, setScheme] = useState("{name} {number}");
  const [made, setMade] = useState<FiledView[]>([]);
  const [busy, setBusy] = useState(false);
  const { brief } = shown;
  const during = (work: Promise<void>) => {
    setBusy(true);
    void work.catch((error: Error) => say(error.message)).finally(() => setBusy(false));
  };
  const file = () =>
    during(
      api
        .fileBatch({ brief, hit, layer, amount, locked, seed, count, scheme: scheme.trim() })
        .then((filed) => {
          setMade(filed);
          say(`${filed.length} variations are filed in the stock.`);
        }),
    );
  const kit = () =>
    during(
      api
        .filedKit({ name: hit.name, bpm: brief.bpm, ids: made.map(({ id }) => id) })
        .then((zip) => save(zip, `${hit.name.toLowerCase()}_kit.zip`)),
    );
  const right =
    Number.isInteger(count) && count >= 1 && count <= MOST_AT_ONCE && scheme.trim() !== "";
  return (
    <div className="batch" role="group" aria-label="Many at once">
      <label>
        Many at once:{" "}
        <input
          type="number"
          className="form-control form-control-sm"
          aria-label="How many variations"
          min={1}
          max={MOST_AT_ONCE}
          value={Number.isNaN(count) ? "" : count}
          onChange={(event) => setCount(Number(event.target.value || NaN))}
        />
      </label>
      <label title="Of {name}, {kind}, {note}, {bpm} and {number}">
        named{" "}
        <input
          className="form-control form-control-sm"
          aria-label="Scheme of their names"
          maxLength={80}
          value={scheme}
          onChange={(event) => setScheme(event.target.value)}
        />
      </label>
      <Button
        size="sm"
        variant="outline-primary"
        aria-disabled={busy || !right}
        onClick={() => !busy && right && file()}
      >
        File them
      </Button>
      <Button
        size="sm"
        variant="outline-secondary"
        aria-disabled={busy || made.length === 0}
        title="One-shots on keys with a map, as a ZIP"
        onClick={() => !busy && made.length > 0 && kit()}
      >
        {made.length > 0 ? `Kit of the ${made.length}` : "Their kit"}
      </Button>
    </div>
  );
}
