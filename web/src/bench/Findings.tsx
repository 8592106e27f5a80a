import { Button, ButtonGroup } from "react-bootstrap";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Finding } from "../api/client";
import type { StepId } from "../steps/steps";
import { useDesk, type Trial } from "../track/context";
import { useTriedFixes } from "./useTriedFixes";

const number = (value: number, unit: string) =>
  `${value < 0 ? "−" : ""}${Math.abs(value).toFixed(Math.abs(value) < 10 ? 1 : 0)} ${unit}`;

/** Whether it is no verdict, but a difference from a record. */
const ofRecord = (finding: Finding) => finding.id.startsWith("reference-");

/** What is wrong, by which number, and what would mend it. */
export function Findings({ step, onHear }: { step: StepId; onHear: () => void }) {
  const { answer, there, trial, tryFix, compare } = useDesk();
  const everything = useMemo(
    () => answer.data && [...(there.data?.findings ?? []), ...answer.data.findings],
    [answer.data, there.data],
  );
  const all = trial ? [] : (everything ?? []);
  // Those of the step at hand come first, each group in the order of cure.
  const here = all.filter((finding) => finding.step === step);
  const found = [...here, ...all.filter((finding) => finding.step !== step)];
  // What is found in B is of B: it is mended where it stands.
  const other = compare.against !== null && compare.hearing === "b";
  const ready = !trial && !other && !answer.stale && !there.stale;
  const trials = useTriedFixes(ready ? everything : null);
  const section = useRef<HTMLElement>(null);
  useEffect(() => {
    // Who waits here by keyboard is taken to the first fix as soon as it has been tried.
    if (section.current === document.activeElement)
      section.current?.querySelector("button")?.focus();
  }, [trials.tried]);
  return (
    <section className="findings" aria-label="Findings" tabIndex={0} ref={section}>
      <h2>Findings {!trial && answer.data && <span className="count">{found.length}</span>}</h2>
      {trial && <OnTrial trial={trial} onHear={onHear} />}
      {!trial && answer.data && found.length === 0 && (
        <p className="calm">Nothing is beyond its limit. Trust your ears from here.</p>
      )}
      <ol className={answer.stale ? "dim" : ""}>
        {found.map((finding) => (
          <li key={finding.id} className="finding">
            <p>{finding.sentence}</p>
            <Numbers finding={finding} />
            <p className="why">{finding.why}</p>
            {!other && (
              <Fixes finding={finding} trials={trials} onTry={(way) => tryFix(finding, way)} />
            )}
          </li>
        ))}
      </ol>
      {found.length > 0 && (
        <p className="why">Limits are common practice: a reason may break each.</p>
      )}
    </section>
  );
}

/** The fixes that were tried and may be taken, with what they do; where there is none, what would help. */
function Fixes(props: {
  finding: Finding;
  trials: ReturnType<typeof useTriedFixes>;
  onTry: (way: string) => void;
}) {
  const { finding, trials, onTry } = props;
  const [asked, setAsked] = useState(false);
  const tried = trials.tried[finding.id];
  if (Object.keys(finding.fixes).length > 0 && !tried) {
    if (asked || trials.byItself(finding)) return <p className="why">Trying what would mend it…</p>;
    const ask = () => {
      setAsked(true);
      trials.tryNow(finding).finally(() => setAsked(false));
    };
    return (
      <Button size="sm" className="fix" variant="outline-secondary" onClick={ask}>
        What would mend it?
      </Button>
    );
  }
  if (!tried?.length) return finding.advice ? <p className="why">{finding.advice}</p> : null;
  return tried.map(({ way, label, value_after, closes }, n) => (
    <div key={way} className="fix-row">
      <Button
        size="sm"
        className="fix"
        variant={n === 0 ? "outline-primary" : "outline-secondary"}
        onClick={() => onTry(way)}
      >
        {label}…
      </Button>
      {value_after !== null && (
        <span className="why">
          then {number(value_after, finding.unit)}
          {closes ? "" : ", still beyond"}
        </span>
      )}
    </div>
  ));
}

function Numbers({ finding }: { finding: Finding }) {
  return (
    <p className="against">
      <strong>{number(finding.value, finding.unit)}</strong>
      <span>limit {number(finding.limit, finding.unit)}</span>
    </p>
  );
}

function OnTrial({ trial, onHear }: { trial: Trial; onHear: () => void }) {
  const { hearTrial, endTrial, compare } = useDesk();
  const { finding, effect, hearing } = trial;
  const card = useRef<HTMLDivElement>(null);
  // The button that was pressed is gone: who came by keyboard goes on from here.
  useEffect(() => card.current?.focus(), [finding.id]);
  const others = effect.closes.filter((id) => id !== finding.id).length;
  return (
    <div className="finding on-trial" role="status" ref={card} tabIndex={-1}>
      <p>{trial.label}</p>
      <p className="against">
        <strong>
          {number(effect.before, finding.unit)} →{" "}
          {effect.after === null ? "not measurable" : number(effect.after, finding.unit)}
        </strong>
        <span>
          {ofRecord(finding) ? "reference" : "limit"} {number(finding.limit, finding.unit)}
        </span>
      </p>
      {!effect.closes.includes(finding.id) && !ofRecord(finding) && (
        <p className="why">Better, but still beyond the limit.</p>
      )}
      {others > 0 && (
        <p className="why">Also mends {others === 1 ? "one other" : `${others} others`}.</p>
      )}
      {effect.opens.map((sentence) => (
        <p key={sentence} className="why">
          But then: {sentence}
        </p>
      ))}
      <ButtonGroup size="sm" className="w-100 mb-2">
        <Button
          variant={hearing ? "outline-secondary" : "secondary"}
          aria-pressed={!hearing}
          onClick={() => {
            hearTrial(false);
            onHear();
          }}
        >
          Hear now
        </Button>
        <Button
          variant={hearing ? "secondary" : "outline-secondary"}
          aria-pressed={hearing}
          onClick={() => {
            hearTrial(true);
            onHear();
          }}
        >
          Hear the fix
        </Button>
      </ButtonGroup>
      <div className="d-flex gap-2 flex-wrap">
        <Button size="sm" onClick={() => endTrial(true)}>
          Take it
        </Button>
        <Button
          size="sm"
          variant="outline-secondary"
          title="Can you hear the difference without knowing which is which?"
          onClick={() => {
            endTrial(false);
            compare.begin({ label: trial.label, state: effect.state }, { blind: true });
            onHear();
          }}
        >
          Blind…
        </Button>
        <Button size="sm" variant="outline-secondary" onClick={() => endTrial(false)}>
          Leave it
        </Button>
      </div>
    </div>
  );
}
