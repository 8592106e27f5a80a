import { useMemo, useState } from "react";
import { api, type Brief, type Hit, type Stage } from "../../api/client";
import { ChainEditor } from "../../bench/chain/ChainEditor";
import { movedOf, withChain } from "../../bench/moves/moving";
import { useDesk } from "../../track/context";
import { HearWithout } from "../../bench/HearWithout";
import { chainOf, editChain } from "../../track/edits";
import { editHit, hitOf } from "../../track/parts";
import { useLatest } from "../../track/latest";
import type { TabProps } from "./HitEditor";

interface Question {
  brief: Brief;
  hit: Hit;
  layer: number | null;
}
const askStages = ({ brief, hit, layer }: Question) => api.stages(brief, hit, layer);

/** What every stroke passes: the chain of the whole hit or of one layer. */
export function ShapeTab({ id, layer, chooseLayer }: TabProps) {
  const { shown, change, strike } = useDesk();
  const hit = hitOf(shown, id);
  const [whole, setWhole] = useState(true);
  const at = whole ? null : layer;
  const { brief } = shown;
  const reports = useLatest(
    useMemo(() => ({ brief, hit, layer: at }), [brief, hit, at]),
    askStages,
  );
  const edit = (to: (old: Stage[]) => Stage[]) =>
    change(
      editHit(id, (old) =>
        at === null
          ? { ...old, ...withChain(old, "chain", to(old.chain)) }
          : editChain(at, to)(old),
      ),
    );
  return (
    <ChainEditor
      key={String(at)}
      chain={chainOf(hit, at)}
      onEdit={edit}
      reports={reports.data}
      stale={reports.stale}
      moved={(stage) => (whole ? movedOf(hit, stage.id) : [])}
      onHear={(stage, after) => strike({ ear: { layer: at, stage, after } })}
      empty={`Nothing is done to ${whole ? "the hit" : "this layer"} yet. Add a stage: an equaliser to cut what boxes at 350 Hz, drive on 120–300 Hz for thump, a transient for the onset.`}
    >
      <select
        className="form-select form-select-sm chain-of"
        aria-label="What is shaped"
        value={whole ? "hit" : layer}
        onChange={(event) => {
          setWhole(event.target.value === "hit");
          if (event.target.value !== "hit") chooseLayer(Number(event.target.value));
        }}
      >
        <option value="hit">the whole hit</option>
        {hit.layers.map((one, n) => (
          <option key={n} value={n}>
            layer {n + 1}: {one.name}
          </option>
        ))}
      </select>
      <HearWithout
        on={chainOf(hit, at).some(({ bypass }) => !bypass)}
        of={`the chain of ${hit.name}`}
        without={editHit(
          id,
          editChain(at, () => []),
        )}
      />
    </ChainEditor>
  );
}
