import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { Button } from "react-bootstrap";
import { api } from "../../api/client";
import { useDesk } from "../../track/context";

/** So many steps are listed at first. */
const SHORT = 12;

/** Every saved step with what it changed; any of them can be gone to, those that undo left behind as well. */
export function History({ all, onAll }: { all: boolean; onAll: () => void }) {
  const { track, ask, say } = useDesk();
  const steps = useQuery({
    queryKey: ["history", track.id, track.revision],
    queryFn: () => api.history(track.id),
    placeholderData: (before) => before,
  });
  const section = useRef<HTMLElement>(null);
  const found = steps.data ?? [];
  const listed = all ? found : found.slice(0, SHORT);
  return (
    <section className="history" aria-label="History of steps" tabIndex={-1} ref={section}>
      <h2>Steps</h2>
      {steps.error && <p role="alert">{steps.error.message}</p>}
      <ol className="versions">
        {listed.map((step, n) => (
          <li key={step.revision} className={step.on_path ? "" : "left-behind"}>
            <time dateTime={step.made_at}>{new Date(step.made_at).toLocaleString()}</time>
            <b>{step.what || (n === found.length - 1 ? "as it began" : "a change")}</b>
            <span className="why">
              {step.here ? "now" : step.on_path ? "" : "left behind by undo"}
            </span>
            <span className="acts">
              <Button
                size="sm"
                variant="outline-secondary"
                disabled={step.here}
                aria-label={`Go to ${step.what || "this step"}`}
                onClick={() => {
                  ask(
                    (id, revision, section) => api.goTo(id, step.revision, revision, section),
                    () =>
                      say("Here is the track as it was at that step. Nothing after it is lost."),
                  );
                  // The button that was pressed has nothing to do any more.
                  section.current?.focus();
                }}
              >
                go to
              </Button>
            </span>
          </li>
        ))}
      </ol>
      {found.length > listed.length && (
        <Button size="sm" variant="outline-secondary" onClick={onAll}>
          All {found.length} steps
        </Button>
      )}
    </section>
  );
}
