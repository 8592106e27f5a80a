import { useEffect, useState } from "react";
import { Button } from "react-bootstrap";
import type { TrackState } from "../../api/client";
import { judging, type SolvedStep, type WholeView } from "../../api/judging";
import { decibels, maybe, millis, signed } from "../../bench/scale";
import { useAsked } from "../../bench/useAsked";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";
import { EverySection } from "./EverySection";
import { Stays } from "./Stays";

type LeftOut = Pick<SolvedStep, "finding" | "way" | "label">;

const same = (one: Pick<LeftOut, "finding" | "way">, other: Pick<LeftOut, "finding" | "way">) =>
  one.finding === other.finding && one.way === other.way;

/** What a degree is called, from what was to what is as clear as can be. */
const nameOf = (n: number, count: number) =>
  n === 0 ? "as it is" : n === count - 1 ? "as clear as can be" : `${n} of ${count - 1}`;

/** The whole low end at once: the least that closes what can be closed, step by step; any step can be left out. */
export function Whole() {
  const { track, state, change, compare, listening, say } = useDesk();
  const [locks, setLocks] = useState<string[]>([]);
  const [without, setWithout] = useState<LeftOut[]>([]);
  const [at, setAt] = useState(0);
  const { busy, job, found, drop, begin, box } = useAsked<WholeView, TrackState>(judging.whole);
  const solve = (left: LeftOut[]) => {
    setWithout(left);
    const without = left.map(({ finding, way }) => ({ finding, way }));
    begin(judging.solveWhole({ state, locks, without }), state);
  };
  useEffect(() => {
    if (found) setAt(found.view.degrees.length - 1);
  }, [found]);
  // It was solved for another track than the one that is there now.
  const degrees = found?.of === state ? found.view.degrees : [];
  const degree = degrees[at];
  const hear = (n: number) => {
    const one = degrees[n];
    if (!one) return;
    setAt(n);
    if (n === 0) compare.end();
    else compare.begin({ label: nameOf(n, degrees.length), state: one.state });
    listening.start();
  };
  const take = () => {
    if (!degree) return;
    const { state: taken } = degree;
    compare.end();
    drop();
    change(() => taken);
    say("Taken. Undo takes it back.");
  };
  return (
    <div className="whole" role="group" aria-label="The low end as a whole" tabIndex={-1} ref={box}>
      <div className="separate-phases">
        <Stays locks={locks} onChange={setLocks} disabled={busy} />
        <Button size="sm" aria-disabled={busy} onClick={() => !busy && solve(without)}>
          Solve the low end
        </Button>
        {busy && <Working job={job} />}
      </div>
      {degrees.length === 0 && !busy && (
        <p className="why">
          Goes through the fixes of all findings, in the order of cure that the brief names, for the
          way that changes least. Nothing is taken until you say so.
        </p>
      )}
      {without.length > 0 && (
        <p className="why">
          Left out:{" "}
          {without.map((one) => (
            <Button
              key={`${one.finding} ${one.way}`}
              size="sm"
              variant="outline-secondary"
              disabled={busy}
              title="Let it take this step again"
              onClick={() => solve(without.filter((other) => !same(one, other)))}
            >
              {one.label} ×
            </Button>
          ))}
        </p>
      )}
      {degree && (
        <>
          <div className="choice-row" role="group" aria-label="Degrees">
            {degrees.map((one, n) => (
              <Button
                key={n}
                size="sm"
                variant={n === at ? "secondary" : "outline-secondary"}
                aria-pressed={n === at}
                title="Heard in the loop at once"
                onClick={() => hear(n)}
              >
                {nameOf(n, degrees.length)}: {maybe(one.collision_ms, millis)} collide,{" "}
                {one.left.length} open, kick and bass changed by {decibels(one.change)}
              </Button>
            ))}
          </div>
          <table className="values separate-table">
            <thead>
              <tr>
                <th scope="col">step</th>
                <th scope="col">before</th>
                <th scope="col">after</th>
                <th scope="col">limit</th>
                <th scope="col">changes</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {degree.steps.map((step) => (
                <tr key={`${step.finding} ${step.way}`}>
                  <th scope="row">{step.label}</th>
                  <td>
                    {step.before.toFixed(1)} {step.unit}
                  </td>
                  <td>{maybe(step.after, (after) => `${after.toFixed(1)} ${step.unit}`)}</td>
                  <td>
                    {step.limit.toFixed(1)} {step.unit}
                  </td>
                  <td>{signed(step.change, 1)} dB</td>
                  <td className="take">
                    <Button
                      size="sm"
                      variant="outline-secondary"
                      aria-label={`Leave out: ${step.label}`}
                      onClick={() => solve([...without, step])}
                    >
                      leave out
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {degree.left.map((sentence) => (
            <p key={sentence} className="why">
              Still open: {sentence}
            </p>
          ))}
          <div className="separate-phases">
            <Button size="sm" disabled={at === 0} onClick={take}>
              Take it
            </Button>
          </div>
        </>
      )}
      {track.sections.length > 1 && <EverySection locks={locks} />}
    </div>
  );
}
