import { Button } from "react-bootstrap";
import type { Proposal, SeparateNumbers, SeparatePhase, SeparateView } from "../../api/client";
import { decibels, maybe, millis, percent, signed } from "../../bench/scale";
import { useDesk } from "../../track/context";

/** Bands whose change a listener notices, the largest first. */
function moved(
  before: Record<string, number>,
  after: Record<string, number>,
  who: string,
): string[] {
  return Object.entries(after)
    .map(([band, db]): [string, number] => [band, db - (before[band] ?? db)])
    .filter(([, db]) => Math.abs(db) >= 0.5)
    .map(([band, db]) => `${who} ${band} ${signed(db, 1)} dB`);
}

function told(before: SeparateNumbers, after: SeparateNumbers): string {
  const changes = [
    ...moved(before.kick_bands_db, after.kick_bands_db, "kick"),
    ...moved(before.bass_bands_db, after.bass_bands_db, "bass"),
  ];
  return changes.slice(0, 3).join(", ");
}

/** Every concrete setting of the owner plan, with what it does by itself; then the phases. */
export function Plan({ view, stale }: { view: SeparateView; stale: boolean }) {
  const { change, say } = useDesk();
  const { plain, now } = view;
  const lifts = view.proposals.filter(({ id }) => id.startsWith("lift-"));
  const single = view.proposals.filter(({ id }) => !id.startsWith("lift-"));
  return (
    <div className={stale ? "separate-plan dim" : "separate-plan"}>
      <table className="values separate-table">
        <thead>
          <tr>
            <th scope="col">before the ducking</th>
            <th scope="col">collide</th>
            <th scope="col">worst sum</th>
            <th scope="col">shared</th>
            <th scope="col">peak</th>
            <th scope="col">what else moves</th>
            <td />
          </tr>
        </thead>
        <tbody>
          <Row name="before" numbers={plain} />
          <Row name="as they are now" numbers={now} against={plain} />
          {single.map((one) => (
            <Row key={one.id} name={one.label} why={one.why} numbers={one.after} against={now}>
              {one.pre_ringing_db !== null && (
                <small> rings before: {decibels(one.pre_ringing_db, 0)}</small>
              )}
              <Button
                size="sm"
                variant="outline-primary"
                aria-label={`Take: ${one.label}`}
                disabled={stale}
                onClick={() => {
                  change((old) => ({ ...old, separate: one.recipe }));
                  say(`${one.label}: taken. Undo takes it back.`);
                }}
              >
                Take
              </Button>
            </Row>
          ))}
        </tbody>
      </table>
      <Lifts lifts={lifts} now={now} stale={stale} />
      <Phases phases={view.phases} stale={stale} />
    </div>
  );
}

function Row(props: {
  name: string;
  why?: string;
  numbers: SeparateNumbers;
  against?: SeparateNumbers;
  children?: React.ReactNode;
}) {
  const { name, why, numbers, against, children } = props;
  const { overlap } = numbers;
  return (
    <tr title={why}>
      <th scope="row">{name}</th>
      <td>{maybe(overlap.collision_share, percent)}</td>
      <td>{maybe(overlap.summation_worst_db, decibels)}</td>
      <td>{overlap.shared_bands.length}</td>
      <td>{decibels(numbers.peak_dbfs)}</td>
      <td className="moves-told" title={against ? told(against, numbers) : ""}>
        {against ? told(against, numbers) : ""}
      </td>
      <td className="take">{children}</td>
    </tr>
  );
}

/** An emphasis on each harmonic of the root, to be tried one after the other. */
function Lifts(props: { lifts: Proposal[]; now: SeparateNumbers; stale: boolean }) {
  const { lifts, now, stale } = props;
  const { change } = useDesk();
  return (
    <div className="separate-phases" role="group" aria-label="Emphasis on the root’s harmonics">
      <span>Emphasis on the root</span>
      {lifts.map((one) => (
        <Button
          key={one.id}
          size="sm"
          variant="outline-secondary"
          title={`${one.why} ${told(now, one.after)}`}
          disabled={stale}
          onClick={() => change((old) => ({ ...old, separate: one.recipe }))}
        >
          {one.label.replace("Lift the bass by 3 dB at ", "")}
        </Button>
      ))}
    </div>
  );
}

/** Polarity and shift of the bass: what adds up best. */
function Phases({ phases, stale }: { phases: SeparatePhase[]; stale: boolean }) {
  const { change, say } = useDesk();
  const [now, ...others] = phases;
  if (!now || now.summation_mean_db === null) return null;
  return (
    <div className="separate-phases" role="group" aria-label="Phase between kick and bass">
      <span>
        Phase: {now.polarity}, {millis(now.shift_ms, 2)} · sum {decibels(now.summation_mean_db)}
      </span>
      {others.map((one) => {
        const bands = Object.entries(one.bands_db)
          .filter(([, db]) => Math.abs(db) >= 0.5)
          .map(([hz, db]) => `${hz} Hz ${signed(db, 1)}`)
          .join(", ");
        return (
          <Button
            key={one.polarity}
            size="sm"
            variant="outline-secondary"
            title={bands === "" ? "No band changes by half a decibel" : `${bands} dB`}
            disabled={stale || (one.polarity === now.polarity && one.shift_ms === now.shift_ms)}
            onClick={() => {
              change((old) => ({
                ...old,
                separate: {
                  ...old.separate,
                  bass: {
                    ...old.separate.bass,
                    polarity: one.polarity as "normal" | "inverted",
                    shift_ms: one.shift_ms,
                  },
                },
              }));
              say("The bass is moved. Undo takes it back.");
            }}
          >
            {one.polarity}, {millis(one.shift_ms, 2)} → {maybe(one.summation_mean_db, decibels)}
          </Button>
        );
      })}
    </div>
  );
}
