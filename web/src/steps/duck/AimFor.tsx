import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type Ducking } from "../../api/client";
import { useDesk } from "../../track/context";
import { editDucking, nameOf } from "../../track/parts";

const LEAST_DB = 0.5;
const MOST_DB = 36;

/** A ducking set by ear's measure: so many dB heard, back on a note value. */
export function AimFor({ one }: { one: Ducking }) {
  const { state, shown, change, facts, say } = useDesk();
  const [wish, setWish] = useState("4");
  const [backOn, setBackOn] = useState("");
  const [part, setPart] = useState("");
  const [busy, setBusy] = useState(false);
  const target = one.targets.some((each) => each.part === part) ? part : one.targets[0]?.part;
  const db = Number(wish.replace(",", "."));
  const right = wish.trim() !== "" && db >= LEAST_DB && db <= MOST_DB;
  const aim = async () => {
    if (!target) return;
    setBusy(true);
    try {
      const found = await api.aim(state, one.id, target, db, backOn);
      change(editDucking(one.id, { on: true, duck: found.recipe, solved_for: "" }));
      say(
        found.complete
          ? `${nameOf(shown, target)} is heard going down by ${found.heard_db.toFixed(1)} dB.`
          : `${nameOf(shown, target)} is heard going down by ${found.heard_db.toFixed(1)} dB: this curve gets no closer.`,
      );
    } catch (error) {
      say((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form
      className="aim-for"
      onSubmit={(event) => {
        event.preventDefault();
        if (right && !busy) void aim();
      }}
    >
      <label title="How far it is heard going down and up, over 50 ms, under all of its duckings">
        aim for
        <Form.Control
          size="sm"
          inputMode="decimal"
          aria-label="Decibels heard"
          isInvalid={!right}
          value={wish}
          onChange={(event) => setWish(event.target.value)}
        />
        dB heard
      </label>
      {one.targets.length > 1 && (
        <label>
          of
          <Form.Select
            size="sm"
            aria-label="Heard of which target"
            value={target}
            onChange={(event) => setPart(event.target.value)}
          >
            {one.targets.map((each) => (
              <option key={each.part} value={each.part}>
                {nameOf(shown, each.part)}
              </option>
            ))}
          </Form.Select>
        </label>
      )}
      <label>
        back on
        <Form.Select
          size="sm"
          aria-label="Back on"
          value={backOn}
          onChange={(event) => setBackOn(event.target.value)}
        >
          <option value="">as it is</option>
          {facts.note_values
            .filter(({ ms }) => ms > 40 && ms <= facts.beat_ms)
            .map(({ value }) => (
              <option key={value}>{value}</option>
            ))}
        </Form.Select>
      </label>
      <Button
        size="sm"
        type="submit"
        variant="outline-primary"
        disabled={!right || busy || !target}
      >
        Aim
      </Button>
    </form>
  );
}
