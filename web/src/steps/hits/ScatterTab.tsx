import { useCallback, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Hit, type Variation } from "../../api/client";
import { Slider } from "../../bench/Slider";
import { maybe, millis } from "../../bench/scale";
import { useShortcuts } from "../../bench/useShortcuts";
import { useDesk } from "../../track/context";
import { editLayer } from "../../track/edits";
import { editHit, hitOf } from "../../track/parts";
import { Batch } from "./Batch";
import type { TabProps } from "./HitEditor";
import { lengthOf, Picture } from "./Picture";

const KEYS = ["q", "w", "e", "r", "t", "y", "u", "i"];
const AMOUNT = {
  name: "amount",
  label: "Amount",
  help: "How far the variations wander from the present sound.",
  group: "",
  unit: "",
  low: 0,
  high: 1,
  step: 0.01,
  scale: "linear",
  main: true,
  off: null,
  movable: false,
  default: 0.4,
} as const;

/** Eight variations around the present sound, heard by key, kept or thrown back. */
export function ScatterTab({ id, layer }: TabProps) {
  const { shown, change, controls, strike, say } = useDesk();
  const hit = hitOf(shown, id);
  const source = hit.layers[layer]!.source;
  const [amount, setAmount] = useState(0.4);
  const [locked, setLocked] = useState<string[]>([]);
  const [seed, setSeed] = useState(1);
  const [found, setFound] = useState<Variation[]>([]);
  const sheet = controls[`source:${source.kind}`];
  const groups = [...new Set((sheet?.controls ?? []).map((control) => control.group))];
  const throwAgain = () => {
    const next = found.length ? seed + 1 : seed;
    setSeed(next);
    api
      .scatter(shown.brief, source, { amount, locked, seed: next })
      .then(setFound)
      .catch((error: Error) => say(error.message));
  };
  const varied = useCallback(
    (one: Variation): Hit => editLayer(layer, (old) => ({ ...old, source: one.source }))(hit),
    [hit, layer],
  );
  const hear = (n: number) => {
    const one = found[n];
    if (one) strike({}, varied(one));
  };
  const keep = (n: number) => {
    const one = found[n];
    if (!one) return;
    change(editHit(id, () => varied(one)));
    say(`Variation ${n + 1} is the ${hit.name.toLowerCase()} now. Undo takes it back.`);
  };
  const file = (n: number) => {
    const one = found[n];
    if (!one) return;
    const name = `${hit.name} ${seed}-${n + 1}`.slice(0, 40);
    api
      .fileHit("hit", { ...varied(one), name })
      .then(() => say(`${name} is filed in the stock.`))
      .catch((error: Error) => say(error.message));
  };
  useShortcuts(Object.fromEntries(KEYS.map((key, n) => [key, () => hear(n)])));
  if (source.kind === "imported")
    return (
      <p className="calm">
        A file has no controls that could be varied. Make the sound here to scatter it.
      </p>
    );
  const span = Math.max(1, ...found.map((one) => lengthOf(one.picture)));
  return (
    <div className="scatter">
      <div className="scatter-wish">
        <Slider control={AMOUNT} value={amount} onChange={setAmount} />
        <fieldset className="locks">
          <legend>left unchanged</legend>
          {groups.map((group) => (
            <label key={group}>
              <input
                type="checkbox"
                checked={locked.includes(group)}
                onChange={() =>
                  setLocked((old) =>
                    old.includes(group) ? old.filter((one) => one !== group) : [...old, group],
                  )
                }
              />{" "}
              {group}
            </label>
          ))}
        </fieldset>
        <Button size="sm" variant="primary" onClick={throwAgain}>
          {found.length ? "Throw again" : "Throw eight"}
        </Button>
      </div>
      <Batch hit={hit} layer={layer} amount={amount} locked={locked} seed={seed} />
      <ol className="variations" aria-label="Variations">
        {found.map((one, n) => (
          <li key={n} className="variation">
            <button
              type="button"
              className="variation-hear"
              onClick={() => hear(n)}
              title={`Hear variation ${n + 1}`}
            >
              <kbd>{KEYS[n]?.toUpperCase()}</kbd>
              <Picture picture={one.picture} span={span} />
              <span className="variation-numbers">
                <small>note</small> {one.note ?? "–"}
                <small>to −20 dB</small> {maybe(one.decay20_ms, millis)}
                <small>centroid</small> {maybe(one.centroid_hz, (hz) => `${hz.toFixed(0)} Hz`)}
              </span>
            </button>
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() => keep(n)}
              aria-label={`Keep variation ${n + 1}`}
            >
              keep
            </Button>
            <Button
              size="sm"
              variant="outline-secondary"
              aria-label={`File variation ${n + 1}`}
              title="Into the stock, as a hit of its own"
              onClick={() => file(n)}
            >
              file
            </Button>
          </li>
        ))}
      </ol>
    </div>
  );
}
