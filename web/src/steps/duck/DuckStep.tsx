import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type AnswerView, type Overlap } from "../../api/client";
import { Differs } from "../../bench/Differs";
import { Tabs } from "../../bench/Tabs";
import { decibels, maybe, millis, signed } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { editMain, mainDucking } from "../../track/parts";
import { useLatest } from "../../track/latest";
import { AsCompressor } from "./AsCompressor";
import { DepthHeard } from "./DepthHeard";
import { OtherDuckings } from "./OtherDuckings";
import { Reach } from "./Reach";
import { DrawnOrDials } from "./DrawnOrDials";
import { Margin } from "./Margin";

const TABS = [
  ["kick", "Kick and bass"],
  ["reach", "What it reaches"],
  ["others", "Other duckings"],
] as const;

/** What has to move out of the way, and when it is back. */
export function DuckStep() {
  const { shown } = useDesk();
  const [tab, setTab] = useState<(typeof TABS)[number][0]>("kick");
  return (
    <div className="step-body">
      <Tabs label="Which ducking" name="duck" tabs={TABS} at={tab} onChoose={setTab} />
      {tab !== "others" && <Differs of={mainDucking(shown).id} />}
      {tab === "kick" && <KickAndBass />}
      {tab === "reach" && <Reach />}
      {tab === "others" && <OtherDuckings />}
    </div>
  );
}

/** The bass out of the kick's way: solved, then one's own. */
function KickAndBass() {
  const { state, shown, change, controls, answer, facts, say } = useDesk();
  const main = mainDucking(shown);
  const [solving, setSolving] = useState(false);
  const [margin, setMargin] = useState(0);
  const sheet = controls.duck;
  // What is needed is of use to the hand that draws, and to nobody else.
  const drawn = Boolean(main.duck.points?.length);
  const needed = useLatest(drawn ? shown : null, api.needed);
  if (!sheet) return null;
  const solve = async () => {
    setSolving(true);
    try {
      const solved = await api.solve(state, main.id, margin);
      change(editMain({ on: true, duck: solved.recipe, solved_for: solved.solved_for }));
      say(
        solved.recipe.depth_db === 0
          ? "Kick and bass do not collide: nothing to duck."
          : solved.complete
            ? `Solved: the bass gives up ${solved.cost_db.toFixed(1)} dB on average.`
            : "The kicks are too close together to end the collision completely; this is the closest.",
      );
    } catch (error) {
      say((error as Error).message);
    } finally {
      setSolving(false);
    }
  };
  return (
    <>
      <div className="duck-head">
        <Button size="sm" disabled={solving} onClick={() => void solve()}>
          Solve from kick and bass
        </Button>
        <Margin value={margin} onChange={setMargin} />
        <Form.Check
          type="switch"
          id="ducking"
          label="Ducking on"
          checked={main.on}
          onChange={(event) => change(editMain({ on: event.target.checked }))}
        />
        <label className="return-on">
          back on
          <select
            className="form-select form-select-sm"
            value=""
            onChange={(event) => {
              const value = event.target.value;
              void api
                .returnOn(state, value)
                .then((duck) => {
                  change(editMain({ duck }));
                  say(`The bass is back on ${value}. Undo takes it back.`);
                })
                .catch((error: Error) => say(error.message));
            }}
          >
            <option value="">{answer.data?.duck.note_value ?? "…"}</option>
            {facts.note_values
              .filter(({ ms }) => ms > 40 && ms < facts.beat_ms)
              .map(({ value, ms }) => (
                <option key={value} value={value}>
                  {value} · {millis(ms)}
                </option>
              ))}
          </select>
        </label>
      </div>
      <DrawnOrDials
        sheet={sheet}
        duck={main.duck}
        gap={gapOf(answer.data?.kick_times_ms ?? [], facts.bar_ms * facts.bars)}
        needed={needed.data}
        onChange={(changes) => change(editMain({ duck: { ...main.duck, ...changes } }))}
      />
      {answer.data && <Compared view={answer.data} dim={answer.stale} />}
      <DepthHeard />
      <AsCompressor one={main} />
    </>
  );
}

/** The shortest time from one kick to the next. */
function gapOf(times: number[], length: number): number {
  const gaps = times.map((at, n) => (times[n + 1] ?? (times[0] ?? 0) + length) - at);
  return Math.min(length, ...gaps);
}

/** The slack of the tightest gap, and beside it the widest where gaps differ. */
function slackTold({ slack_ms, slacks_ms }: AnswerView["duck"]): string {
  if (slack_ms === null) return "–";
  const widest = Math.max(...slacks_ms);
  return widest - slack_ms < 1
    ? millis(slack_ms)
    : `${millis(slack_ms).replace(" ms", "")} to ${millis(widest)}`;
}

const percent = (value: number) => `${(100 * value).toFixed(0)} %`;

const ROWS: [string, string, (side: Overlap) => string, string?][] = [
  [
    "collision per kick",
    "Time per kick in which the bass covers it, where the owner of the sub leaves it room",
    (side) => `${maybe(side.collision_ms, millis)} · ${maybe(side.collision_share, percent)}`,
    "collision_share",
  ],
  [
    "sub shared · owner’s loss",
    "Time per kick in which both are loud below the sub edge, limit 50 ms; what the owner loses there, limit 3 dB",
    (side) => `${maybe(side.sub_shared_ms, millis)} · ${maybe(side.owner_loss_db, decibels)}`,
    "sub_shared_ms",
  ],
  [
    "kick over bass",
    "Median level of the kick above the bass while the kick sounds",
    (side) => maybe(side.kick_over_bass_db, decibels),
    "kick_over_bass_db",
  ],
  [
    "sum, worst · mean",
    "What adding both gives against their energies: +3 in step, 0 unrelated, below −3 cancelling",
    (side) =>
      `${maybe(side.summation_worst_db, decibels)} · ${maybe(side.summation_mean_db, decibels)}`,
    "summation_worst_db",
  ],
];

function Compared({ view, dim }: { view: AnswerView; dim: boolean }) {
  const { before, after, duck, level_before, level_after } = view;
  return (
    <div className={`compared${dim ? " dim" : ""}`}>
      <table className="values">
        <thead>
          <tr>
            <th scope="col">Kick and bass</th>
            <th scope="col">before</th>
            <th scope="col">ducked</th>
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([name, help, show, field]) => (
            <tr key={name} title={help}>
              <th scope="row">{name}</th>
              <td title={field && before.reasons[field]}>{show(before)}</td>
              <td title={field && after.reasons[field]}>{show(after)}</td>
            </tr>
          ))}
          <tr>
            <th scope="row">loudness</th>
            <td>{level_before.lufs.toFixed(1)} LUFS</td>
            <td>{level_after.lufs.toFixed(1)} LUFS</td>
          </tr>
          <tr>
            <th scope="row">true peak</th>
            <td>{decibels(level_before.true_peak_dbtp)}TP</td>
            <td>{decibels(level_after.true_peak_dbtp)}TP</td>
          </tr>
        </tbody>
      </table>
      <table className="values">
        <thead>
          <tr>
            <th scope="col">The curve</th>
            <td />
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">depth</th>
            <td>{decibels(duck.depth_db)}</td>
          </tr>
          <tr>
            <th scope="row">down within</th>
            <td>{maybe(duck.reaches_depth_ms, (ms) => millis(ms, 1))}</td>
          </tr>
          <tr>
            <th scope="row">back within</th>
            <td>
              {maybe(duck.returns_ms, millis)}
              {duck.note_value && duck.note_value_difference_ms !== null && (
                <small>
                  {" "}
                  {duck.note_value} {signed(duck.note_value_difference_ms, 0)} ms
                </small>
              )}
            </td>
          </tr>
          <tr className={duck.slack_ms !== null && duck.slack_ms < 0 ? "beyond" : ""}>
            <th scope="row">slack to the next kick</th>
            <td>{slackTold(duck)}</td>
          </tr>
          <tr className={duck.click_risk > 12 ? "beyond" : ""}>
            <th scope="row">click risk, limit 12</th>
            <td>{duck.click_risk.toFixed(1)} dB/ms</td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}
