import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { TrackState } from "../../api/client";
import { judging, type Character, type Designed, type DesignView } from "../../api/judging";
import { Controls } from "../../bench/Controls";
import { decibels, maybe, millis } from "../../bench/scale";
import { useAsked } from "../../bench/useAsked";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";

const WANTED = [
  ["kick", "a kick for the lines"],
  ["808", "an 808 for the kick"],
  ["bass", "a bass for the kick"],
] as const;

const soundOf = ({ note, length_ms }: Designed) => `${note ? `${note}, ` : ""}${millis(length_ms)}`;

/** A kick for the bass that is there, or an 808 or a bass for the kick: five answers from short to long. */
export function Design() {
  const { state, change, compare, controls, listening, say } = useDesk();
  const [wanted, setWanted] = useState<(typeof WANTED)[number][0]>("kick");
  const [line, setLine] = useState<string | null>(null);
  const [character, setCharacter] = useState<Character>({ length: 0.5, click: 0.5 });
  const [at, setAt] = useState<number | null>(null);
  const { busy, job, found, drop, begin, box } = useAsked<DesignView, TrackState>(judging.designed);
  const lines = state.parts.filter(({ part }) => part === "line");
  const into = lines.some(({ id }) => id === line) ? line : (lines[0]?.id ?? null);
  const answers = found?.of === state ? found.view.answers : [];
  const sheet = controls["character"];
  const design = () => {
    setAt(null);
    begin(judging.design({ state, wanted, line: into, character }), state);
  };
  const hear = (n: number) => {
    const one = answers[n];
    if (!one) return;
    setAt(n);
    compare.begin({ label: soundOf(one), state: one.state });
    listening.start();
  };
  const take = (one: Designed) => {
    compare.end();
    drop();
    change(() => one.state);
    say("Taken. Undo takes it back.");
  };
  const chosen = at === null ? undefined : answers[at];
  return (
    <div className="design" role="group" aria-label="A sound designed" tabIndex={-1} ref={box}>
      <div className="separate-phases">
        <Form.Label htmlFor="design-wanted">Design</Form.Label>
        <Form.Select
          id="design-wanted"
          size="sm"
          value={wanted}
          disabled={busy}
          onChange={(event) => setWanted(event.target.value as typeof wanted)}
        >
          {WANTED.map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Form.Select>
        {wanted !== "kick" && lines.length > 1 && (
          <Form.Select
            size="sm"
            aria-label="The line that gets the sound"
            value={into ?? ""}
            disabled={busy}
            onChange={(event) => setLine(event.target.value)}
          >
            {lines.map(({ id, name }) => (
              <option key={id} value={id}>
                in {name}
              </option>
            ))}
          </Form.Select>
        )}
        <Button size="sm" aria-disabled={busy} onClick={() => !busy && design()}>
          Design five
        </Button>
        {busy && <Working job={job} />}
      </div>
      {sheet && (
        <Controls
          sheet={sheet}
          recipe={character}
          onChange={(changes) => setCharacter((old) => ({ ...old, ...changes }))}
        />
      )}
      {answers.length === 0 ? (
        <p className="why">
          Looks for note, sweep, decay and click for which the others have to give way least, at the
          same loudness. What is longer asks for more ducking: that is the trade.
        </p>
      ) : (
        <table className="values separate-table">
          <thead>
            <tr>
              <th scope="col">sound</th>
              <th scope="col">ducked by</th>
              <th scope="col">that takes</th>
              <th scope="col">collide</th>
              <th scope="col">both in the sub</th>
              <th scope="col">owner’s sub</th>
              <th scope="col">still open</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {answers.map((one, n) => (
              <tr key={n}>
                <th scope="row">{soundOf(one)}</th>
                <td>{one.depth_db ? decibels(one.depth_db) : "nothing"}</td>
                <td>{one.taken_lu.toFixed(1)} LU</td>
                <td>{maybe(one.collision_ms, millis)}</td>
                <td>{maybe(one.sub_shared_ms, millis)}</td>
                <td>{maybe(one.sub_level_db, decibels)}</td>
                <td>{one.left.length || "nothing"}</td>
                <td className="take">
                  <Button
                    size="sm"
                    variant={n === at ? "secondary" : "outline-secondary"}
                    aria-pressed={n === at}
                    aria-label={`Hear ${soundOf(one)}`}
                    onClick={() => hear(n)}
                  >
                    hear
                  </Button>{" "}
                  <Button size="sm" aria-label={`Take ${soundOf(one)}`} onClick={() => take(one)}>
                    take
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {chosen && (
        <p className="why">
          {chosen.lowered_db > 0 &&
            `${decibels(chosen.lowered_db)} softer than the sound it replaces, for the peak of both together. `}
          {chosen.more_click_db > 0 &&
            `${decibels(chosen.more_click_db)} more click than asked for, so that small loudspeakers play it. `}
          {chosen.steps.length > 0 &&
            `Mended besides: ${chosen.steps.map(({ label }) => label).join(", ")}. `}
          {chosen.left.length > 0
            ? `Still open: ${chosen.left.join(" ")}`
            : "Between kick and bass nothing is beyond its limit."}
        </p>
      )}
    </div>
  );
}
