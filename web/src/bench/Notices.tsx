import { Button } from "react-bootstrap";
import { api } from "../api/client";
import { useDesk } from "../track/context";
import { Caution } from "./Help";
import "./notices.css";

interface Props {
  message: string | null;
  /** What the pictures could not be asked for. */
  failure: Error | null;
  caution: boolean;
  onUnderstood: () => void;
}

/** What is to be told beside the work: what was done, and what became of saving it. */
export function Notices({ message, failure, caution, onUnderstood }: Props) {
  const { saving, trouble } = useDesk();
  return (
    <div className="notices" aria-live="polite">
      {caution && (
        <div className="notice">
          <Caution />
          <Button size="sm" onClick={onUnderstood}>
            Understood
          </Button>
        </div>
      )}
      {saving === "stale" && <Stale />}
      {saving === "away" && (
        <div className="notice" role="alert">
          {trouble}
        </div>
      )}
      {saving === "failed" && <Failed />}
      {failure && saving !== "away" && (
        <div className="notice" role="alert">
          {failure.message}
        </div>
      )}
      {message && <div className="notice">{message}</div>}
    </div>
  );
}

/** The track was changed in another tab. */
function Stale() {
  const { track, state, trouble, reload, say } = useDesk();
  const keep = () =>
    api
      .keep(track.id, track.section, state, "Kept from a tab that was not up to date")
      .then(() => {
        reload();
        say("Yours is in the log as a version; this is the other tab’s.");
      })
      .catch((error: Error) => say(error.message));
  return (
    <div className="notice" role="alert">
      <p>{trouble}</p>
      <Button size="sm" onClick={() => void keep()}>
        Keep mine as a version
      </Button>{" "}
      <Button size="sm" variant="outline-secondary" onClick={reload}>
        Go on from the other
      </Button>
    </div>
  );
}

/** The server refused to save. */
function Failed() {
  const { trouble, flush } = useDesk();
  return (
    <div className="notice" role="alert">
      <p>{trouble}</p>
      <Button size="sm" onClick={() => void flush().catch(() => undefined)}>
        Save again
      </Button>
    </div>
  );
}
