import { useMemo } from "react";
import { api, type TrackState } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";
import { editMain, kickOf, mainDucking } from "../../track/parts";
import { Pairing } from "./Pairing";

interface Question {
  state: TrackState;
  bar: number;
}
const ask = ({ state, bar }: Question) => api.duckings(state, bar);

/** What starts the ducking of kick and bass beside the kick, and what it turns down by how much. */
export function Reach() {
  const { shown, bar, change, controls } = useDesk();
  const main = mainDucking(shown);
  const sheet = controls["ducking"];
  const view = useLatest(
    useMemo(() => ({ state: shown, bar }), [shown, bar]),
    ask,
  );
  return (
    <>
      <p className="lead">
        The same curve for all that it reaches, each with its share of the depth. It is solved for
        the lines it turns down, and kick and bass are judged as they are heard under it.
      </p>
      <Pairing one={main} triggers={view.data?.triggers ?? []} fixed={[kickOf(shown).id]} />
      {sheet && (
        <Controls sheet={sheet} recipe={main} onChange={(changes) => change(editMain(changes))} />
      )}
    </>
  );
}
