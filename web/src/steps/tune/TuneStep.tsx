import { Button } from "react-bootstrap";
import { api, type Move } from "../../api/client";
import { cents, millis, semitones } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { HitNumbers } from "../HitNumbers";

/** The kick moved to a note of the key, the nearest first. */
export function TuneStep() {
  const { state, kick, facts, change, say } = useDesk();
  const view = kick.data;
  if (!view) return null;
  // Anything but one made source is resampled as a whole.
  const sources = state.kick.layers.map((layer) => layer.source.kind);
  const imported = sources.length > 1 || sources[0] === "imported";
  const tune = async (move: Move) => {
    try {
      const tuned = await api.tune(state, move.note);
      change((old) => ({ ...old, kick: tuned.kick }));
      say(`Tuned to ${move.note}.`);
    } catch (error) {
      say((error as Error).message);
    }
  };
  return (
    <div className="step-body">
      <HitNumbers of={kick} name={state.kick.name} />
      {view.moves.length === 0 ? (
        <p className="calm">
          There is nothing to tune to:{" "}
          {view.hit.reasons["fundamental_hz"] ?? "the kick has no pitch"}. A longer decay or a
          shorter pitch decay lets the tail settle.
        </p>
      ) : (
        <>
          <p className="lead">
            Tune to a note of {facts.key}.{" "}
            {imported
              ? "It is resampled by the exact ratio: a lower note makes it longer."
              : "The recipe’s pitch is changed; nothing else."}
          </p>
          <ol className={`moves${kick.stale ? " dim" : ""}`}>
            {view.moves.slice(0, 8).map((move, index) => {
              const there = Math.abs(move.shift_cents) < 1;
              return (
                <li key={move.midi} className={index === 0 ? "move nearest" : "move"}>
                  <b>{move.note}</b>
                  <span>
                    {move.hz.toFixed(2)} Hz
                    {move.is_tonic && <em> tonic</em>}
                    {!move.club_plays_it && <em className="warn"> too low for most clubs</em>}
                  </span>
                  <span>
                    {there
                      ? "in tune"
                      : `${semitones(move.shift_semitones)} · ${cents(move.shift_cents)}`}
                  </span>
                  <span>
                    {millis(move.new_length_ms)}
                    {imported && !there && ` (now ${millis(view.hit.length_ms)})`}
                  </span>
                  <Button
                    size="sm"
                    variant={index === 0 ? "primary" : "outline-primary"}
                    disabled={there || kick.stale}
                    aria-label={`Tune to ${move.note}`}
                    onClick={() => void tune(move)}
                  >
                    {there ? "in tune" : `Tune to ${move.note}`}
                  </Button>
                </li>
              );
            })}
          </ol>
        </>
      )}
    </div>
  );
}
