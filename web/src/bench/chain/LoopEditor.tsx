import { useMemo, useState } from "react";
import { api, type TrackState } from "../../api/client";
import { OF_A_STROKE } from "../../api/limits";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";
import { type Part, editPart } from "../../track/parts";
import { Controls } from "../Controls";
import { AlignWith } from "./AlignWith";
import { MovesEditor } from "../moves/MovesEditor";
import { movedOf, withChain } from "../moves/moving";
import { HearWithout } from "../HearWithout";
import { ChainEditor } from "./ChainEditor";

type Where = "stages" | "after" | "moves";
const PLACES: [Where, string, string][] = [
  ["stages", "before the duckings", "before its gain"],
  ["after", "behind the duckings", "behind its gain"],
  ["moves", "moves", "moves"],
];
/** What stands where a chain is empty: of a part, of the sum. */
const EMPTY = {
  stages: [
    "Nothing is done to its loop yet. Here echoes and spaces ring on under later strokes.",
    "Nothing is done to everything together yet. What is put here is heard with All.",
  ],
  after: [
    "Nothing lies behind the duckings yet. A space here rings through them.",
    "Nothing lies behind its gain yet. A limiter for everything together belongs here.",
  ],
};

interface Question {
  state: TrackState;
  part: string;
  behind: boolean;
}
const askStages = ({ state, part, behind }: Question) => api.stagesOf(state, part, behind);

/** What the loop of a part passes, and where it lies: the same for every part. */
export function LoopEditor({ part }: { part: Part }) {
  const { shown, change, controls } = useDesk();
  const [where, setWhere] = useState<Where>("stages");
  // It stands in another place when moves are chosen: the hand that chose stays on it.
  const [chosen, setChosen] = useState(false);
  const sheet = controls["place"];
  const sum = part.part === "sum" ? 1 : 0;
  const chain = where === "moves" ? [] : part[where];
  const reports = useLatest(
    useMemo(
      () => (chain.length > 0 ? { state: shown, part: part.id, behind: where === "after" } : null),
      [chain.length, shown, part.id, where],
    ),
    askStages,
  );
  const choice = (
    <select
      className="form-select form-select-sm chain-of"
      aria-label="Chain or moves of the loop"
      autoFocus={chosen}
      value={where}
      onChange={(event) => {
        setChosen(true);
        setWhere(event.target.value as Where);
      }}
    >
      {PLACES.map(([id, ...texts]) => (
        <option key={id} value={id}>
          {id === "moves" && part.moves.length > 0
            ? `${texts[sum]} (${part.moves.length})`
            : texts[sum]}
        </option>
      ))}
    </select>
  );
  return (
    <div className="loop-editor" role="group" aria-label={`Loop of ${part.name}`}>
      {sheet && (
        <Controls
          sheet={sheet}
          recipe={part.place}
          moved={movedOf(part, "place")}
          onChange={(changes) =>
            change(editPart(part.id, { place: { ...part.place, ...changes } }))
          }
        />
      )}
      {where === "moves" ? (
        <MovesEditor part={part}>{choice}</MovesEditor>
      ) : (
        <ChainEditor
          key={`${part.id} ${where}`}
          chain={chain}
          onEdit={(edit) => change(editPart(part.id, withChain(part, where, edit(part[where]))))}
          reports={reports.data}
          stale={reports.stale}
          without={OF_A_STROKE}
          moved={(stage) => movedOf(part, stage.id)}
          empty={EMPTY[where][sum] ?? ""}
        >
          {choice}
          <HearWithout
            on={chain.some(({ bypass }) => !bypass)}
            of={`the chain of ${part.name}`}
            without={editPart(part.id, withChain(part, where, []))}
          />
          {sum === 0 && <AlignWith part={part} />}
        </ChainEditor>
      )}
    </div>
  );
}
