import { useState, type ReactNode } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import type { Stage, StageReport } from "../../api/client";
import { MOST_STAGES } from "../../api/limits";
import { useDesk } from "../../track/context";
import { defaults } from "../../track/edits";
import { Controls } from "../Controls";
import { opensByKey } from "../opensByKey";
import { Equaliser } from "./Equaliser";
import { OnHarmonic } from "./OnHarmonic";
import { STAGE_NAMES } from "./names";
import { Report } from "./Report";

interface Props {
  chain: Stage[];
  onEdit: (change: (old: Stage[]) => Stage[]) => void;
  reports: StageReport[] | null;
  stale: boolean;
  /** Stages that make no sense here. */
  without?: readonly Stage["stage"][];
  /** What stands before the stages: which chain it is. */
  children: ReactNode;
  /** Said while there is no stage. */
  empty: string;
  /** Controls of a stage that follow moves. */
  moved?: (stage: Stage) => string[];
  /** Hears one stage by itself, before or after it. */
  onHear?: (stage: number, after: boolean) => void;
}

/** A chain of stages in an order of one's own, the one at hand with its controls and what it did. */
export function ChainEditor(props: Props) {
  const { chain, onEdit, reports, without = [], onHear } = props;
  const { controls } = useDesk();
  const [wish, choose] = useState(0);
  const chosen = Math.min(wish, chain.length - 1);
  const stage = chain[chosen];
  const sheet = stage && controls[`stage:${stage.stage}`];
  const put = (changes: object) =>
    onEdit((old) => old.map((one, n) => (n === chosen ? ({ ...one, ...changes } as Stage) : one)));
  const move = (by: number) => {
    const to = chosen + by;
    if (to < 0 || to >= chain.length) return;
    onEdit((old) => {
      const next = [...old];
      [next[chosen], next[to]] = [next[to]!, next[chosen]!];
      return next;
    });
    choose(to);
  };
  const add = (name: string) => {
    const fresh = {
      stage: name,
      bypass: false,
      id: "",
      ...defaults(controls[`stage:${name}`]),
    } as Stage;
    onEdit((old) => [...old, fresh]);
    choose(chain.length);
  };
  const report = reports?.[chosen];
  const offered = Object.entries(STAGE_NAMES).filter(
    ([name]) => !without.includes(name as Stage["stage"]),
  );
  return (
    <div className="shape">
      <div className="chain" role="group" aria-label="Chain of stages">
        {props.children}
        {chain.map((one, n) => (
          <Button
            key={n}
            size="sm"
            variant={n === chosen ? "secondary" : "outline-secondary"}
            aria-pressed={n === chosen}
            className={one.bypass ? "stage bypassed" : "stage"}
            onClick={() => choose(n)}
          >
            {n + 1} {STAGE_NAMES[one.stage]}
            {one.bypass && " (off)"}
          </Button>
        ))}
        <select
          className="form-select form-select-sm add-hit"
          aria-label="Add a stage"
          onKeyDown={opensByKey}
          value=""
          disabled={chain.length >= MOST_STAGES}
          onChange={(event) => event.target.value && add(event.target.value)}
        >
          <option value="">+ stage…</option>
          {offered.map(([name, text]) => (
            <option key={name} value={name}>
              {text}
            </option>
          ))}
        </select>
      </div>
      {!stage || !sheet ? (
        <p className="calm">{props.empty}</p>
      ) : (
        <div className={`stage-body of-${stage.stage}`}>
          <div>
            <div className="stage-buttons">
              <ButtonGroup size="sm">
                <Button
                  variant={stage.bypass ? "secondary" : "outline-secondary"}
                  aria-pressed={stage.bypass}
                  onClick={() => put({ bypass: !stage.bypass })}
                >
                  bypass
                </Button>
                <Button
                  variant="outline-secondary"
                  aria-label="Move the stage earlier"
                  onClick={() => move(-1)}
                >
                  ←
                </Button>
                <Button
                  variant="outline-secondary"
                  aria-label="Move the stage later"
                  onClick={() => move(1)}
                >
                  →
                </Button>
                <Button
                  variant="outline-secondary"
                  onClick={() => onEdit((old) => old.filter((_, n) => n !== chosen))}
                >
                  remove
                </Button>
              </ButtonGroup>
              <OnHarmonic stage={stage.stage} onPut={put} />
              {onHear && (
                <ButtonGroup size="sm" aria-label="The stage by itself, equally loud">
                  {[false, true].map((after) => (
                    <Button
                      key={String(after)}
                      variant="outline-secondary"
                      onClick={() => onHear(chosen, after)}
                    >
                      {after ? "hear after" : "hear before"}
                    </Button>
                  ))}
                </ButtonGroup>
              )}
            </div>
            <Controls sheet={sheet} recipe={stage} onChange={put} moved={props.moved?.(stage)} />
          </div>
          {report && (
            <div>
              {stage.stage === "equaliser" && report.stage === "equaliser" && (
                <Equaliser
                  stage={stage}
                  sheet={sheet}
                  report={report}
                  onChange={put}
                  moved={props.moved?.(stage) ?? []}
                />
              )}
              <Report report={report} dim={props.stale} />
            </div>
          )}
        </div>
      )}
    </div>
  );
}
