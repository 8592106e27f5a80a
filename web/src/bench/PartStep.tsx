import { LoopEditor } from "./chain/LoopEditor";
import { Controls } from "./Controls";
import { FileLoop } from "./FileLoop";
import { Differs } from "./Differs";
import { useDesk } from "../track/context";
import { loopChanges } from "../track/swing";
import { editStem, type Part, partOf } from "../track/parts";
import { Sources } from "../steps/duck/Sources";
import { HitEditor } from "../steps/hits/HitEditor";
import { LineEditor } from "../steps/line/LineEditor";

/** Any part of the track, chosen in the strip: what there is to do to it, whatever step it was reached by. */
export function PartStep() {
  const { shown, partId } = useDesk();
  const part = partOf(shown, partId);
  if (!part) return null;
  return (
    <div className={`step-body ${part.part === "line" ? "line" : "hits"}`}>
      <Differs of={part.id} />
      {part.part === "hit" ? (
        <HitEditor hit={part} />
      ) : part.part === "line" ? (
        <LineEditor voice={part} />
      ) : (
        <OtherEditor part={part} />
      )}
    </div>
  );
}

/** A stem, a held chord, or outputs of other parts. */
function OtherEditor({ part }: { part: Exclude<Part, { part: "hit" | "line" }> }) {
  const { shown, change, controls } = useDesk();
  const sheet = controls["stem"];
  return (
    <div className="part-body">
      {part.part === "outputs" && <Sources part={part} />}
      {part.part === "stem" && sheet && (
        <Controls
          sheet={sheet}
          recipe={part}
          onChange={(changes) => {
            const all = loopChanges(part, changes, shown.brief.bpm);
            change(editStem(part.id, (old) => ({ ...old, ...all }) as typeof old));
          }}
        />
      )}
      {part.part === "stem" && (
        <FileLoop
          part={part.id}
          name={part.name}
          fit={part.fit}
          silent={part.silent}
          onSilent={(silent) => change(editStem(part.id, (old) => ({ ...old, silent })))}
        />
      )}
      <LoopEditor part={part} />
    </div>
  );
}
