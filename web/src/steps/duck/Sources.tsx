import type { Output, Outputs } from "../../api/client";
import { Slider } from "../../bench/Slider";
import { useDesk } from "../../track/context";
import { defaults } from "../../track/edits";
import { editOutputs, kickOf, madeFrom, outputsOf, voicesOf } from "../../track/parts";

/** What a copy, a send or a group takes of the other parts, and how loud. */
export function Sources({ part }: { part: Outputs }) {
  const { shown, change, controls } = useDesk();
  const sheet = controls["output"];
  const gain = sheet?.controls.find(({ name }) => name === "gain_db");
  const taken = sheet?.choices.find(({ name }) => name === "taken");
  const put = (next: Output[]) =>
    change(editOutputs(part.id, (old) => ({ ...old, sources: next })));
  // Kick and lines are judged by themselves; others are in one group at most.
  const elsewhere = outputsOf(shown).filter(({ id }) => id !== part.id);
  const alone = new Set([
    kickOf(shown).id,
    ...voicesOf(shown).map(({ id }) => id),
    ...elsewhere.flatMap(({ sources }) =>
      sources.filter((one) => one.taken === "instead").map(({ of }) => of),
    ),
  ]);
  return (
    <div className="sources" role="group" aria-label={`What ${part.name} is made of`}>
      {shown.parts
        .filter(({ id }) => !madeFrom(shown, id).has(part.id))
        .map(({ id, name }) => {
          const one = part.sources.find(({ of }) => of === id);
          return (
            <div key={id} className="output">
              <label className="layer-choice" title={taken?.help}>
                {name}
                <select
                  className="form-select form-select-sm"
                  aria-label={`What is taken of ${name}`}
                  value={one?.taken ?? ""}
                  onChange={(event) => {
                    const rest = part.sources.filter(({ of }) => of !== id);
                    const value = event.target.value as Output["taken"] | "";
                    const fresh = { ...defaults(sheet), of: id } as unknown as Output;
                    put(value ? [...rest, { ...(one ?? fresh), taken: value }] : rest);
                  }}
                >
                  <option value="">nothing</option>
                  {taken?.options
                    .filter((option) => option !== "instead" || !alone.has(id))
                    .map((option) => (
                      <option key={option}>{option}</option>
                    ))}
                </select>
              </label>
              {one && gain && (
                <Slider
                  control={{ ...gain, label: `${name} gain` }}
                  value={one.gain_db}
                  onChange={(gain_db) =>
                    put(part.sources.map((old) => (old.of === id ? { ...old, gain_db } : old)))
                  }
                />
              )}
            </div>
          );
        })}
    </div>
  );
}
