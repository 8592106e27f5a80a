import { Button } from "react-bootstrap";
import { api, type SearchView, type TrackState } from "../../api/client";
import { decibels, maybe } from "../../bench/scale";
import { useAsked } from "../../bench/useAsked";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";
import { mainDucking } from "../../track/parts";

const withoutAnswer = (state: TrackState) =>
  JSON.stringify({ ...state, separate: null, separate_for: null });

/** The search for the least that parts kick and bass, and what it found: a few degrees of it. */
export function Choices() {
  const { state, change, say } = useDesk();
  const { busy, job, found, begin, box } = useAsked<SearchView, TrackState>(api.searched, false);
  const { brief } = state;
  // What was found holds as long as nothing but the settings themselves has changed.
  const current = found && withoutAnswer(found.of) === withoutAnswer(state) ? found.view : null;
  return (
    <section className="separate-choices" aria-label="How far to part them" tabIndex={-1} ref={box}>
      {busy ? (
        <Working job={job} />
      ) : (
        <Button size="sm" onClick={() => begin(api.searchApart(state), state)}>
          Search for the least that will do
        </Button>
      )}
      {!current && !busy && (
        <span className="why">
          {brief.cure === "ducking first" && mainDucking(state).on
            ? "Under the ducking: this track ducks first."
            : "Without the ducking: this track carves first."}
        </span>
      )}
      {current && (
        <div className="choice-row" role="list">
          {current.choices.map(({ name, tried }) => {
            const taken = JSON.stringify(tried.recipe) === JSON.stringify(state.separate);
            return (
              <div key={name} role="listitem" className={taken ? "choice taken" : "choice"}>
                <b>{name}</b>
                <span>
                  {Math.round(100 * tried.collision_share)} % collide ·{" "}
                  {maybe(tried.summation_worst_db, decibels)} worst sum
                </span>
                <span>
                  bass changed by {decibels(tried.change_bass_db)}, kick by{" "}
                  {decibels(tried.change_kick_db)}
                </span>
                <Button
                  size="sm"
                  variant={taken ? "secondary" : "outline-primary"}
                  aria-disabled={taken}
                  onClick={() => {
                    if (taken) return;
                    change((old) => ({
                      ...old,
                      separate: tried.recipe,
                      separate_for: current.solved_for,
                    }));
                    say(`${name[0]?.toUpperCase()}${name.slice(1)}. Undo takes it back.`);
                  }}
                >
                  {taken ? "taken" : "Take"}
                </Button>
              </div>
            );
          })}
        </div>
      )}
    </section>
  );
}
