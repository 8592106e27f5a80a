import { area } from "d3-shape";
import { scaleLinear } from "d3-scale";
import { useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type Ducking, type DuckingReport, type TrackState } from "../../api/client";
import { MOST_DUCKINGS } from "../../api/limits";
import { Controls } from "../../bench/Controls";
import { Differs } from "../../bench/Differs";
import { decibels, maybe, millis } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { defaults } from "../../track/edits";
import { editDucking, kickOf, nameOf, newId } from "../../track/parts";
import { HearWithout } from "../../bench/HearWithout";
import { useLatest } from "../../track/latest";
import { AimFor } from "./AimFor";
import { AsCompressor } from "./AsCompressor";
import { Pumps } from "./DepthHeard";
import { DrawnOrDials } from "./DrawnOrDials";
import { Margin } from "./Margin";
import { Pairing } from "./Pairing";
import { AddParts, Others } from "./Others";
import "./duckings.css";

interface Question {
  state: TrackState;
  bar: number;
}
const ask = ({ state, bar }: Question) => api.duckings(state, bar);

const named = (state: TrackState, ids: string[]) =>
  ids.map((id) => nameOf(state, id)).join(", ") || "nothing";

/** A ducking in words: what it turns down, by what. */
const titled = (state: TrackState, one: Ducking) => {
  const starts = [...one.triggers.map((id) => nameOf(state, id))];
  if (one.rate !== "none") starts.push(one.rate);
  const targets = one.targets.map(({ part }) => part);
  return `${named(state, targets)} by ${starts.join(", ") || "nothing"}`;
};

/** Every ducking beside the kick's own: what starts it, what it turns down, over one bar. */
export function OtherDuckings() {
  const { shown, facts, bar, change, controls, say } = useDesk();
  const [wish, choose] = useState("");
  const [margin, setMargin] = useState(0);
  const view = useLatest(
    useMemo(() => ({ state: shown, bar }), [shown, bar]),
    ask,
  );
  const others = shown.duckings.slice(1);
  const chosen = others.find(({ id }) => id === wish) ?? others[0];
  const sheet = controls["duck"];
  const more = controls["ducking"];
  // Reports come in the order of the state that was asked for: late ones are matched by the ids in it.
  const reportOf = (one: Ducking): DuckingReport | undefined =>
    view.stale ? undefined : view.data?.reports[shown.duckings.indexOf(one)];
  const gap = chosen && reportOf(chosen)?.gap_ms;
  const solve = (one: Ducking) => {
    api
      .solve(shown, one.id, margin)
      .then(({ recipe, cost_db, complete, solved_for }) => {
        change(editDucking(one.id, { duck: recipe, solved_for, margin_db: margin, on: true }));
        say(
          recipe.depth_db === 0
            ? "These do not cover each other: nothing to duck."
            : complete
              ? `Solved: it gives up ${cost_db.toFixed(1)} dB on average.`
              : "Its triggers are too close together to clear it completely; this is the closest.",
        );
      })
      .catch((error: Error) => say(error.message));
  };
  const add = () => {
    const duck = { ...defaults(sheet), depth_db: 6, hold_ms: 20, release_ms: 140 };
    const kick = kickOf(shown).id;
    const taken = new Set(shown.duckings.flatMap(({ targets }) => targets.map(({ part }) => part)));
    const free = shown.parts.filter(({ id }) => id !== kick);
    const target = free.findLast(({ id }) => !taken.has(id)) ?? free.at(-1);
    const one = {
      ...defaults(more),
      id: newId(),
      triggers: [kick],
      targets: target ? [{ part: target.id, share: 1 }] : [],
      on: true,
      duck,
      margin_db: 0,
      solved_for: "",
    } as unknown as Ducking;
    change((old) => ({ ...old, duckings: [...old.duckings, one] }));
    choose(one.id);
  };
  return (
    <div className="duckings">
      <div className="ducking-head">
        <Button size="sm" disabled={shown.duckings.length >= MOST_DUCKINGS} onClick={add}>
          Add a ducking
        </Button>
        <AddParts />
        <span className="why">
          {others.length === 0
            ? "The kick ducks the lines. Anything else may have duckings of its own."
            : "Of several on one part the deepest holds. A muted part still starts its own."}
        </span>
      </div>
      <div role="list" aria-label="Duckings" className={view.stale ? "dim" : ""}>
        {others.map((one) => {
          const report = reportOf(one);
          const name = titled(shown, one);
          return (
            <div
              key={one.id}
              role="listitem"
              className={one === chosen ? "ducking-row at-hand" : "ducking-row"}
            >
              <Button
                size="sm"
                variant={one === chosen ? "secondary" : "outline-secondary"}
                aria-pressed={one === chosen}
                aria-label={`Change the ducking of ${name}`}
                onClick={() => choose(one.id)}
              >
                {name}
              </Button>
              <Gain report={report} />
              <span className="ducking-told">
                <Told report={report} one={one} state={shown} />
                {view.data &&
                  report?.heard &&
                  report.targets
                    .filter(({ pumping_db }) => pumping_db !== null)
                    .map(({ part, pumping_db }) => (
                      <Pumps
                        key={part}
                        db={pumping_db as number}
                        transparent={view.data!.transparent_db}
                        groove={view.data!.groove_db}
                      />
                    ))}
              </span>
              <Form.Check
                type="switch"
                id={`ducking-${one.id}`}
                aria-label={`Ducking of ${name}`}
                checked={one.on}
                disabled={!one.on && one.triggers.length === 0 && one.rate === "none"}
                onChange={(event) => change(editDucking(one.id, { on: event.target.checked }))}
              />
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Remove the ducking of ${name}`}
                onClick={() => {
                  change((old) => ({
                    ...old,
                    duckings: old.duckings.filter(({ id }) => id !== one.id),
                  }));
                  say(`The ducking of ${name} is gone. Undo brings it back.`);
                }}
              >
                Remove
              </Button>
            </div>
          );
        })}
      </div>
      <Others />
      {chosen && sheet && more && (
        <section aria-label={`Ducking of ${titled(shown, chosen)}`}>
          <Differs of={chosen.id} />
          <Pairing one={chosen} triggers={view.data?.triggers ?? []} />
          <div className="ducking-head">
            <Button
              size="sm"
              variant="outline-primary"
              disabled={chosen.triggers.length === 0 || chosen.targets.length === 0}
              title="The least that keeps what starts it clear, from both as they are measured"
              onClick={() => solve(chosen)}
            >
              Solve
            </Button>
            <Margin value={margin} onChange={setMargin} />
            <AimFor one={chosen} />
            <HearWithout
              of={`ducking ${titled(shown, chosen)}`}
              on={chosen.on}
              without={editDucking(chosen.id, { on: false })}
            />
          </div>
          <DrawnOrDials
            sheet={sheet}
            duck={chosen.duck}
            gap={gap ?? facts.beat_ms}
            onChange={(changes) =>
              change(editDucking(chosen.id, { duck: { ...chosen.duck, ...changes } }))
            }
          />
          <Controls
            sheet={more}
            recipe={chosen}
            onChange={(changes) =>
              change(
                editDucking(chosen.id, {
                  ...changes,
                  on:
                    chosen.on &&
                    (chosen.triggers.length > 0 || (changes.rate ?? chosen.rate) !== "none"),
                }),
              )
            }
          />
          <AsCompressor one={chosen} />
        </section>
      )}
    </div>
  );
}

interface ToldProps {
  report: DuckingReport | undefined;
  one: Ducking;
  state: TrackState;
}

function Told({ report, one, state }: ToldProps) {
  if (!report) return null;
  if (!report.heard) return <>{one.on ? "nothing starts it, or no target is heard" : "off"}</>;
  const slack = report.duck?.slack_ms ?? null;
  const many = report.targets.length > 1;
  return (
    <>
      {report.rate_hz.toFixed(1)} a second ·{" "}
      {report.targets.map(({ part, taken_lu }) => (
        <span key={part}>
          takes {maybe(taken_lu, (lu) => decibels(lu).replace("dB", "LU"))}
          {many && ` of ${nameOf(state, part)}`} ·{" "}
        </span>
      ))}
      <span className={slack !== null && slack < 0 ? "warn" : ""}>
        {slack !== null && slack < 0
          ? `never back, ${millis(-slack)} too late`
          : `back ${maybe(slack, millis)} early`}
      </span>
    </>
  );
}

/** The gain over the bar: what is taken hangs from the top. */
function Gain({ report }: { report: DuckingReport | undefined }) {
  const gain = report?.gain_db ?? [];
  const x = scaleLinear([0, Math.max(gain.length - 1, 1)], [0, 200]);
  const y = scaleLinear([0, Math.min(-12, ...gain)], [1, 27]);
  const shape = area<number>()
    .x((_, ms) => x(ms))
    .y0(1)
    .y1((db) => y(db));
  return (
    <svg viewBox="0 0 200 28" preserveAspectRatio="none" className="ducking-gain" aria-hidden>
      <path d={shape(gain) ?? ""} />
    </svg>
  );
}
