import { useCallback, useEffect, useState } from "react";
import { Button, Form, ProgressBar } from "react-bootstrap";
import { api, type JobView, type TrackState } from "../../api/client";
import { judging, type SolvedStep, type WholeView } from "../../api/judging";
import { decibels, maybe, millis, signed } from "../../bench/scale";
import { useJobs } from "../../bench/useJobs";
import { useStay } from "../../bench/useStay";
import { useDesk } from "../../track/context";

interface Found {
  view: WholeView;
  of: TrackState;
}
type LeftOut = Pick<SolvedStep, "finding" | "way" | "label">;

const same = (one: Pick<LeftOut, "finding" | "way">, other: Pick<LeftOut, "finding" | "way">) =>
  one.finding === other.finding && one.way === other.way;

/** What a degree is called, from what was to what is as clear as can be. */
const nameOf = (n: number, count: number) =>
  n === 0 ? "as it is" : n === count - 1 ? "as clear as can be" : `${n} of ${count - 1}`;

/** The whole low end at once: the least that closes what can be closed, step by step; any step can be left out. */
export function Whole() {
  const { state, change, compare, listening, say } = useDesk();
  const [locks, setLocks] = useState<string[]>([]);
  const [without, setWithout] = useState<LeftOut[]>([]);
  const [asked, setAsked] = useState<{ job: number; of: TrackState } | null>(null);
  const [found, setFound] = useState<Found | null>(null);
  const [at, setAt] = useState(0);
  const ended = useCallback(
    (job: JobView) => {
      if (job.id !== asked?.job) return;
      const { of } = asked;
      setAsked(null);
      say(job.said);
      if (job.state !== "done") return;
      judging
        .whole(job.id)
        .then((view) => {
          setFound({ view, of });
          setAt(view.degrees.length - 1);
        })
        .catch((error: Error) => say(error.message));
    },
    [asked, say],
  );
  const { jobs, look } = useJobs(ended);
  const job = jobs.find(({ id }) => id === asked?.job);
  const box = useStay<HTMLDivElement>(asked ? "asked" : found ? "found" : "none");
  const begin = (left: LeftOut[]) => {
    setWithout(left);
    setFound(null);
    judging
      .solveWhole({ state, locks, without: left.map(({ finding, way }) => ({ finding, way })) })
      .then(({ id }) => {
        setAsked({ job: id, of: state });
        look();
      })
      .catch((error: Error) => say(error.message));
  };
  // It was solved for another track than the one that is there now.
  useEffect(() => setFound((old) => (old && old.of !== state ? null : old)), [state]);
  const degrees = found?.view.degrees ?? [];
  const degree = degrees[at];
  const hear = (n: number) => {
    const one = degrees[n];
    if (!one) return;
    setAt(n);
    if (n === 0) compare.end();
    else compare.begin({ label: nameOf(n, degrees.length), state: one.state });
    if (!listening.playing) listening.start();
  };
  const take = () => {
    if (!degree) return;
    const { state: taken } = degree;
    compare.end();
    setFound(null);
    change(() => taken);
    say("Taken. Undo takes it back.");
  };
  return (
    <div className="whole" role="group" aria-label="The low end as a whole" tabIndex={-1} ref={box}>
      <div className="separate-phases" role="group" aria-label="What stays as it is">
        <span>Stays as it is:</span>
        {state.parts
          .filter(({ part }) => part === "hit" || part === "line")
          .map(({ id, name }) => (
            <Form.Check
              key={id}
              inline
              id={`lock-${id}`}
              label={name}
              checked={locks.includes(id)}
              disabled={asked !== null}
              onChange={() =>
                setLocks((old) =>
                  old.includes(id) ? old.filter((one) => one !== id) : [...old, id],
                )
              }
            />
          ))}
        <Button size="sm" disabled={asked !== null} onClick={() => begin(without)}>
          Solve the low end
        </Button>
        {asked && (
          <>
            <ProgressBar now={job?.done ?? 0} max={job?.total || 24} aria-label="How far it is" />
            <Button
              size="sm"
              variant="outline-secondary"
              onClick={() => void api.stopJob(asked.job)}
            >
              Cancel
            </Button>
          </>
        )}
      </div>
      {!found && !asked && (
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
              disabled={asked !== null}
              title="Let it take this step again"
              onClick={() => begin(without.filter((other) => !same(one, other)))}
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
                {nameOf(n, degrees.length)}: {maybe(one.collision_ms, millis)} collide, changed by{" "}
                {decibels(one.change)}
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
                <th scope="col" aria-label="what can be done" />
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
                      onClick={() => begin([...without, step])}
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
    </div>
  );
}
