import { Controls } from "../../bench/Controls";
import { ByHand } from "../../bench/hand/ByHand";
import { useDesk } from "../../track/context";
import { editHit, hitOf } from "../../track/parts";
import { swingChanges } from "../../track/swing";
import type { TabProps } from "./HitEditor";

/** How a softer stroke sounds, and the hit played by hand. */
export function PlayTab({ id }: TabProps) {
  const { shown, change, controls } = useDesk();
  const hit = hitOf(shown, id);
  const sheet = controls["velocity"];
  const whole = controls["hit"];
  if (!sheet || !whole) return null;
  return (
    <div className="play">
      <Controls
        sheet={sheet}
        recipe={hit.velocity}
        onChange={(changes) =>
          change(editHit(id, (old) => ({ ...old, velocity: { ...old.velocity, ...changes } })))
        }
      />
      <p className="lead">
        A softer stroke is quieter, duller, shorter and sweeps less, as far as these say.
      </p>
      <ByHand part={hit} />
      <Controls
        sheet={whole}
        without={["aim"]}
        recipe={hit}
        onChange={(changes) =>
          change(editHit(id, (old) => ({ ...old, ...swingChanges(changes) }) as typeof old))
        }
      />
    </div>
  );
}
