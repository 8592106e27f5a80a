import { Button, Form } from "react-bootstrap";
import { Controls } from "../../bench/Controls";
import { decibels } from "../../bench/scale";
import { Tabs } from "../../bench/Tabs";
import { useTab } from "../../bench/useAddress";
import { useDesk } from "../../track/context";
import { Ear } from "./Ear";
import { Hours } from "./Hours";
import { Notes } from "./Notes";
import { Numbers } from "./Numbers";
import { References } from "./References";
import { Places } from "./Places";
import "./room.css";

const TABS = [
  ["place", "Place"],
  ["numbers", "Numbers"],
  ["notes", "Notes"],
  ["reference", "Reference"],
  ["ear", "Ear"],
  ["hours", "Level and hours"],
] as const;
const IDS = TABS.map(([id]) => id);

/** The same low end in the places it will be heard in. */
export function RoomStep() {
  const { inRoom, there, controls, listening } = useDesk();
  const { room, through, by } = inRoom;
  const [tab, setTab] = useTab(IDS);
  const sheet = controls[`room:${room.room}`];
  const { lift } = listening;
  return (
    <div className="step-body room">
      <Places />
      <div className="room-head">
        <Tabs label="What is shown" name="room" tabs={TABS} at={tab} onChoose={setTab} />
        <Button
          size="sm"
          variant={through ? "secondary" : "outline-secondary"}
          aria-pressed={through !== null}
          title="What is played goes through this place, in every step (O)"
          onClick={() => {
            inRoom.hear(through === null);
            if (through === null) listening.start();
          }}
        >
          Hear it there
        </Button>
        <Form.Select
          size="sm"
          aria-label="Match loudness by"
          value={by}
          onChange={(event) => inRoom.setBy(event.target.value as typeof by)}
        >
          <option value="loudness">equally loud</option>
          <option value="low band">equal low band</option>
        </Form.Select>
        {through && lift && (
          <span className="match" title="Gain given so that both are equally loud">
            gain {decibels(lift.gain_db)}
            {lift.short ? ", still quieter: there is too little to lift" : ""}
          </span>
        )}
      </div>
      {there.error && <p role="alert">{there.error.message}</p>}
      {tab === "place" &&
        (sheet ? (
          <Controls
            sheet={sheet}
            recipe={room}
            onChange={(changes) => inRoom.choose({ ...room, ...changes } as typeof room)}
          />
        ) : (
          <p className="why">
            An impulse response of your own: it is heard as it was measured, nothing is set.
          </p>
        ))}
      {there.data && tab === "numbers" && (
        <Numbers judged={there.data.judged} stale={there.stale} />
      )}
      {there.data && tab === "notes" && (
        <Notes notes={there.data.judged.notes} stale={there.stale} />
      )}
      {tab === "reference" && <References />}
      {tab === "ear" && <Ear />}
      {tab === "hours" && <Hours />}
    </div>
  );
}
