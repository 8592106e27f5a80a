import { Controls } from "../../bench/Controls";
import { useDesk } from "../../track/context";
import { defaults, editKick } from "../../track/edits";
import { KickNumbers } from "../KickNumbers";
import { Source } from "../Source";

/** The kick: made from its recipe, or a file of one's own. */
export function HitsStep() {
  const { shown, change, controls } = useDesk();
  const kick = shown.kick;
  const sheet = controls[kick.kind === "made" ? "kick" : "imported_kick"];
  if (!sheet) return null;
  return (
    <div className="step-body">
      <KickNumbers />
      <Source
        as="kick"
        imported={kick.kind === "imported" ? kick : null}
        onMade={() =>
          change((old) =>
            old.kick.kind === "made"
              ? old
              : { ...old, kick: { kind: "made", recipe: defaults(controls.kick) as never } },
          )
        }
      />
      {kick.kind === "made" ? (
        <Controls
          sheet={sheet}
          recipe={kick.recipe}
          onChange={(changes) => change(editKick(changes))}
        />
      ) : (
        <Controls
          sheet={sheet}
          recipe={kick}
          onChange={(changes) =>
            change((old) =>
              old.kick.kind === "imported" ? { ...old, kick: { ...old.kick, ...changes } } : old,
            )
          }
        />
      )}
    </div>
  );
}
