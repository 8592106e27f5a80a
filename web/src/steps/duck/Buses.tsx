import { useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { area } from "d3-shape";
import { scaleLinear } from "d3-scale";
import {
  api,
  type Bus,
  type BusReport,
  type ControlSheet,
  type TrackState,
} from "../../api/client";
import { Controls } from "../../bench/Controls";
import { decibels, maybe, millis } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { defaults, type Edit } from "../../track/edits";
import { Pumps } from "./DepthHeard";
import { DrawnOrDials } from "./DrawnOrDials";
import { Margin } from "./Margin";
import { AddStem, Stems } from "./Stems";
import { useLatest } from "../../track/latest";

const NOTE_VALUE = "note value";
const MOST = 12;

const editBus =
  (index: number, changes: Partial<Bus>): Edit =>
  (old) => ({
    ...old,
    buses: old.buses.map((bus, n) => (n === index ? { ...bus, ...changes } : bus)),
  });

interface Question {
  state: TrackState;
  bar: number;
}
const ask = ({ state, bar }: Question) => api.buses(state, bar);

/** Every other ducking of the track: what starts it, what it turns down, over one bar. */
export function Buses() {
  const { shown, facts, bar, change, controls, say } = useDesk();
  const [at, setAt] = useState(0);
  const [margin, setMargin] = useState(0);
  const view = useLatest(
    useMemo(() => ({ state: shown, bar }), [shown, bar]),
    ask,
  );
  const { buses } = shown;
  const sheet = controls["duck"];
  const busSheet = controls["bus"];
  const chosen = buses[at];
  const gap = view.data?.reports[at]?.gap_ms;
  const solve = () => {
    api
      .solveBus(shown, at, margin)
      .then(({ recipe, cost_db, complete, solved_for }) => {
        change(editBus(at, { duck: recipe, solved_for, margin_db: margin }));
        say(
          recipe.depth_db === 0
            ? "These two do not cover each other: nothing to duck."
            : complete
              ? `Solved: it gives up ${cost_db.toFixed(1)} dB on average.`
              : "What starts it leaves too little room to clear it wholly; this is the closest.",
        );
      })
      .catch((error: Error) => say(error.message));
  };
  const add = () => {
    const duck = { ...defaults(sheet), depth_db: 6, hold_ms: 20, release_ms: 140 };
    const taken = new Set(buses.map((bus) => bus.target));
    const target =
      view.data?.targets.findLast((one) => !taken.has(one)) ?? view.data?.targets.at(-1) ?? "";
    const bus = { ...defaults(busSheet), trigger: shown.kick.name, target, on: true, duck };
    change((old) => ({ ...old, buses: [...old.buses, bus as unknown as Bus] }));
    setAt(buses.length);
  };
  return (
    <div className="buses">
      <div className="bus-head">
        <Button size="sm" disabled={!view.data || buses.length >= MOST} onClick={add}>
          Add a ducking
        </Button>
        <AddStem />
        <span className="why">
          {buses.length === 0
            ? "The kick ducks the bass. Anything else may have duckings of its own."
            : "Hear them with All. A muted hit still starts its own."}
        </span>
      </div>
      <div role="list" aria-label="Duckings" className={view.stale ? "dim" : ""}>
        {buses.map((bus, n) => {
          const report = view.data?.reports[n];
          const name = `${bus.target} by ${bus.trigger === NOTE_VALUE ? bus.rate : bus.trigger}`;
          return (
            <div key={n} role="listitem" className={n === at ? "bus at-hand" : "bus"}>
              <Button
                size="sm"
                variant={n === at ? "secondary" : "outline-secondary"}
                aria-pressed={n === at}
                aria-label={`Change the ducking of ${name}`}
                onClick={() => setAt(n)}
              >
                {bus.target}
              </Button>
              <Gain report={report} />
              <span className="bus-told">
                <Told report={report} bus={bus} />
                {view.data && report?.heard && report.pumping_db !== null && (
                  <Pumps
                    db={report.pumping_db}
                    transparent={view.data.transparent_db}
                    groove={view.data.groove_db}
                  />
                )}
              </span>
              <Form.Check
                type="switch"
                id={`bus-${n}`}
                aria-label={`Ducking of ${name}`}
                checked={bus.on}
                onChange={(event) => change(editBus(n, { on: event.target.checked }))}
              />
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Remove the ducking of ${name}`}
                onClick={() => {
                  change((old) => ({ ...old, buses: old.buses.filter((_, k) => k !== n) }));
                  setAt(0);
                  say(`The ducking of ${name} is gone. Undo brings it back.`);
                }}
              >
                Remove
              </Button>
            </div>
          );
        })}
      </div>
      <Stems />
      {chosen && sheet && busSheet && (
        <>
          <div className="bus-head">
            <Choice
              label="Turns down"
              value={chosen.target}
              options={view.data?.targets ?? []}
              onChoose={(target) => change(editBus(at, { target }))}
            />
            <Choice
              label="Started by"
              value={chosen.trigger}
              options={view.data?.triggers ?? []}
              onChoose={(trigger) => change(editBus(at, { trigger }))}
            />
            <Button
              size="sm"
              variant="outline-primary"
              disabled={chosen.trigger === NOTE_VALUE}
              title="The least that keeps what starts it clear, from both as they are measured"
              onClick={solve}
            >
              Solve
            </Button>
            <Margin value={margin} onChange={setMargin} />
          </div>
          <DrawnOrDials
            sheet={sheet}
            duck={chosen.duck}
            gap={gap ?? facts.beat_ms}
            onChange={(changes) => change(editBus(at, { duck: { ...chosen.duck, ...changes } }))}
          />
          <Controls
            sheet={busSheet}
            without={idle(chosen, busSheet)}
            recipe={chosen}
            onChange={(changes) => change(editBus(at, changes))}
          />
        </>
      )}
    </div>
  );
}

/** What would do nothing now: a note value that starts nothing, a reverb that is off. */
function idle(bus: Bus, sheet: ControlSheet): string[] {
  const off = sheet.controls.find(({ name }) => name === "reverb_db")?.off;
  return [
    ...(bus.trigger === NOTE_VALUE ? [] : ["rate"]),
    ...(bus.reverb_db === off ? ["reverb_ms", "tail"] : []),
  ];
}

function Choice(props: {
  label: string;
  value: string;
  options: string[];
  onChoose: (value: string) => void;
}) {
  const { label, value, options, onChoose } = props;
  return (
    <label className="dial-choice">
      {label}
      <select
        className="form-select form-select-sm"
        value={value}
        onChange={(event) => onChoose(event.target.value)}
      >
        {(options.includes(value) ? options : [value, ...options]).map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
    </label>
  );
}

function Told({ report, bus }: { report: BusReport | undefined; bus: Bus }) {
  if (!report) return null;
  if (!report.heard)
    return <>{bus.on ? "nothing starts it, or its target is not played" : "off"}</>;
  const slack = report.duck?.slack_ms ?? null;
  return (
    <>
      {report.rate_hz.toFixed(1)} a second · takes{" "}
      {maybe(report.taken_lu, (lu) => decibels(lu).replace("dB", "LU"))} ·{" "}
      <span className={slack !== null && slack < 0 ? "warn" : ""}>
        {slack !== null && slack < 0
          ? `never back, ${millis(-slack)} too late`
          : `back ${maybe(slack, millis)} early`}
      </span>
    </>
  );
}

/** The gain over the bar: what is taken hangs from the top. */
function Gain({ report }: { report: BusReport | undefined }) {
  const gain = report?.gain_db ?? [];
  const x = scaleLinear([0, Math.max(gain.length - 1, 1)], [0, 200]);
  const y = scaleLinear([0, Math.min(-12, ...gain)], [1, 27]);
  const shape = area<number>()
    .x((_, ms) => x(ms))
    .y0(1)
    .y1((db) => y(db));
  return (
    <svg viewBox="0 0 200 28" preserveAspectRatio="none" className="bus-gain" aria-hidden>
      <path d={shape(gain) ?? ""} />
    </svg>
  );
}
