import { NavLink } from "react-router";
import { STEPS, type StepId } from "../steps/steps";
import { useDesk } from "../track/context";

/** The order of work, each step with its open findings. */
export function StepsNav({ to }: { to: (step: StepId) => string }) {
  const { answer, there } = useDesk();
  const findings = [...(answer.data?.findings ?? []), ...(there.data?.findings ?? [])];
  return (
    <nav className="steps" aria-label="Steps">
      {STEPS.map(({ id, name, what }, n) => {
        const open = findings.filter((finding) => finding.step === id).length;
        return (
          <NavLink key={id} to={to(id)} title={`${what} (${(n + 1) % 10})`}>
            <span>{name}</span>
            {open > 0 && (
              <span className="count" aria-label={open === 1 ? "1 finding" : `${open} findings`}>
                {open}
              </span>
            )}
            <small>{what}</small>
          </NavLink>
        );
      })}
    </nav>
  );
}
