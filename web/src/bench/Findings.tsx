import { Button, ButtonGroup } from "react-bootstrap";
import type { Finding } from "../api/client";
import { useDesk, type Trial } from "../track/context";

const number = (value: number, unit: string) =>
  `${value < 0 ? "−" : ""}${Math.abs(value).toFixed(Math.abs(value) < 10 ? 1 : 0)} ${unit}`;

/** What is wrong, by which number, and what would mend it. */
export function Findings({ onHear }: { onHear: () => void }) {
  const { answer, trial, tryFix } = useDesk();
  const found = trial ? [] : (answer.data?.findings ?? []);
  return (
    <section className="findings" aria-label="Findings">
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
            {Object.entries(finding.fixes).map(([way, label], n) => (
              <Button
                key={way}
                size="sm"
                className="fix"
                variant={n === 0 ? "outline-primary" : "outline-secondary"}
                onClick={() => tryFix(finding, way)}
              >
                {label}…
              </Button>
            ))}
          </li>
        ))}
      </ol>
      {found.length > 0 && (
        <p className="why">Limits are common practice: a reason may break each.</p>
      )}
    </section>
  );
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
  const { hearTrial, endTrial } = useDesk();
  const { finding, effect, hearing } = trial;
  const others = effect.closes.filter((id) => id !== finding.id).length;
  return (
    <div className="finding on-trial" role="status">
      <p>{trial.label}</p>
      <p className="against">
        <strong>
          {number(effect.before, finding.unit)} →{" "}
          {effect.after === null ? "not measurable" : number(effect.after, finding.unit)}
        </strong>
        <span>limit {number(finding.limit, finding.unit)}</span>
      </p>
      {!effect.closes.includes(finding.id) && (
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
      <div className="d-flex gap-2">
        <Button size="sm" onClick={() => endTrial(true)}>
          Take it
        </Button>
        <Button size="sm" variant="outline-secondary" onClick={() => endTrial(false)}>
          Leave it
        </Button>
      </div>
    </div>
  );
}
