import { Button } from "react-bootstrap";
import { judging, type SectionsView } from "../../api/judging";
import { useAsked } from "../../bench/useAsked";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";

/** Main solved, and then what is left in each of the other sections; taken in one step. */
export function EverySection({ locks }: { locks: string[] }) {
  const { track, flush, ask, say } = useDesk();
  const { busy, job, found, drop, begin, box } = useAsked<SectionsView, null>(
    judging.sectionsSolved,
  );
  // It was solved for another track than the one that is there now.
  const solved = found && found.view.revision === track.revision ? found : null;
  const solve = async () => {
    await flush();
    begin(judging.solveSections({ track: track.id, locks }), null);
  };
  const take = (job: number) => {
    drop();
    ask(
      (_, based_on, at) => judging.takeSections(job, { based_on, at }),
      () => say("Taken in every section. Undo takes it back."),
    );
  };
  const steps = solved?.view.sections.reduce((sum, one) => sum + one.steps.length, 0) ?? 0;
  return (
    <div className="every-section" role="group" aria-label="Every section" tabIndex={-1} ref={box}>
      <div className="separate-phases">
        <Button
          size="sm"
          variant="outline-secondary"
          aria-disabled={busy}
          title="Main first, which the others follow; then what is left in each of them, as a difference there"
          onClick={() => !busy && void solve().catch((error: Error) => say(error.message))}
        >
          Solve all {track.sections.length} sections
        </Button>
        {busy && <Working job={job} />}
        {solved && steps > 0 && (
          <Button size="sm" onClick={() => take(solved.job)}>
            Take it in every section
          </Button>
        )}
      </div>
      {solved && (
        <table className="values separate-table">
          <thead>
            <tr>
              <th scope="col">section</th>
              <th scope="col">steps</th>
              <th scope="col">still open</th>
            </tr>
          </thead>
          <tbody>
            {solved.view.sections.map(({ name, steps, left }) => (
              <tr key={name}>
                <th scope="row">{name}</th>
                <td className="moves-told">
                  {steps.map(({ label }) => label).join("; ") || "as it is"}
                </td>
                <td className="moves-told">{left.join(" ") || "nothing"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
