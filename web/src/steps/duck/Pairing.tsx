import { Button } from "react-bootstrap";
import type { Ducking } from "../../api/client";
import { Slider } from "../../bench/Slider";
import { useDesk } from "../../track/context";
import { editDucking } from "../../track/parts";

interface Props {
  one: Ducking;
  /** Parts that have strokes or notes, by their ids. */
  triggers: string[];
  /** Triggers that it keeps. */
  fixed?: string[];
}

/** What starts a ducking, and what it turns down by how much. */
export function Pairing({ one, triggers, fixed = [] }: Props) {
  const { shown, change, controls } = useDesk();
  const share = controls["target"]?.controls.find(({ name }) => name === "share");
  const starts = shown.parts.filter(({ id }) => triggers.includes(id));
  const reached = new Map(one.targets.map((target) => [target.part, target.share]));
  const put = (changes: Partial<Ducking>) => change(editDucking(one.id, changes));
  const start = (id: string) => {
    const next = one.triggers.includes(id)
      ? one.triggers.filter((trigger) => trigger !== id)
      : [...one.triggers, id];
    put({ triggers: next, on: one.on && (next.length > 0 || one.rate !== "none") });
  };
  const reach = (id: string) =>
    put({
      targets: reached.has(id)
        ? one.targets.filter(({ part }) => part !== id)
        : [...one.targets, { part: id, share: 1 }],
    });
  return (
    <>
      <div className="pairing" role="group" aria-label="Started by">
        <span className="why">started by</span>
        {starts.map(({ id, name }) => (
          <Button
            key={id}
            size="sm"
            variant={one.triggers.includes(id) ? "secondary" : "outline-secondary"}
            aria-pressed={one.triggers.includes(id)}
            disabled={fixed.includes(id) || reached.has(id)}
            onClick={() => start(id)}
          >
            {name}
          </Button>
        ))}
      </div>
      <div className="pairing" role="group" aria-label="Turns down">
        <span className="why">turns down</span>
        {shown.parts.map(({ id, name }) => (
          <Button
            key={id}
            size="sm"
            variant={reached.has(id) ? "secondary" : "outline-secondary"}
            aria-pressed={reached.has(id)}
            disabled={one.triggers.includes(id)}
            onClick={() => reach(id)}
          >
            {name}
          </Button>
        ))}
      </div>
      {share && one.targets.length > 1 && (
        <div className="shares">
          {one.targets.map((target) => (
            <Slider
              key={target.part}
              control={{
                ...share,
                label: shown.parts.find(({ id }) => id === target.part)?.name ?? "",
              }}
              value={target.share}
              onChange={(value) =>
                put({
                  targets: one.targets.map((old) =>
                    old.part === target.part ? { ...old, share: value } : old,
                  ),
                })
              }
            />
          ))}
        </div>
      )}
    </>
  );
}
