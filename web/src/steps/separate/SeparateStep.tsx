import { useMemo, useState } from "react";
import { api, type TrackState } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { Tabs } from "../../bench/Tabs";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";
import { Choices } from "./Choices";
import { Design } from "./Design";
import { MeetingMap } from "./MeetingMap";
import { Plan } from "./Plan";
import { Whole } from "./Whole";
import "./separate.css";

const TABS = [
  ["plan", "Plan"],
  ["bass", "Bass gives up"],
  ["kick", "Kick gives up"],
  ["map", "Map"],
  ["whole", "Solve it all"],
  ["design", "Design"],
] as const;

interface Question {
  state: TrackState;
  bar: number;
}
const ask = ({ state, bar }: Question) => api.separateView(state, bar);

/** What kick and bass give up to each other. */
export function SeparateStep() {
  const { shown, change, controls, bar } = useDesk();
  const [tab, setTab] = useState<(typeof TABS)[number][0]>("plan");
  const view = useLatest(
    useMemo(() => ({ state: shown, bar }), [shown, bar]),
    ask,
  );
  const side = tab === "bass" || tab === "kick" ? tab : null;
  const sheet = controls[`carve_${tab}`];
  const { separate, brief } = shown;
  return (
    <div className="step-body separate">
      <div className="separate-head">
        <Tabs label="What is shown" name="separate" tabs={TABS} at={tab} onChoose={setTab} />
        {tab === "plan" ? (
          <Choices />
        ) : (
          <span className="why">
            The {brief.sub_owner} owns the sub; the {brief.sub_owner === "kick" ? "bass" : "kick"}{" "}
            gives it room.
          </span>
        )}
      </div>
      {tab === "plan" && view.data && <Plan view={view.data} stale={view.stale} />}
      {side && sheet && (
        <Controls
          sheet={sheet}
          recipe={separate[side]}
          onChange={(changes) =>
            change((old) => ({
              ...old,
              separate: { ...old.separate, [side]: { ...old.separate[side], ...changes } },
            }))
          }
        />
      )}
      {tab === "whole" && <Whole />}
      {tab === "design" && <Design />}
      {tab === "map" && view.data && <MeetingMap meeting={view.data.meeting} dim={view.stale} />}
    </div>
  );
}
