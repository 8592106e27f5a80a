import { Button, Form } from "react-bootstrap";
import type { Candidate, Pitched } from "../../api/client";
import { cents, decibels, millis, semitones, signed } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { rootsOf } from "../../track/edits";
import { editHit, hitOf } from "../../track/parts";

/** Bands whose change a listener notices, the largest first. */
function told(change: Candidate["bands_change_db"]): string {
  const heard = Object.entries(change ?? {}).filter(([, db]) => Math.abs(db) >= 1);
  heard.sort(([, a], [, b]) => Math.abs(b) - Math.abs(a));
  if (heard.length === 0) return "same balance";
  return heard
    .slice(0, 2)
    .map(([band, db]) => `${band} ${signed(db, 0)} dB`)
    .join(", ");
}

/** Where the hit at hand can go, what each move costs, and what is odd about the hit. */
export function Candidates(props: {
  row: Pitched;
  stale: boolean;
  onTune: (note: string) => void;
}) {
  const { row, stale } = props;
  const { change, controls, strike, shown } = useDesk();
  const follow = controls["hit"]?.choices.find((choice) => choice.name === "follow");
  const follows = hitOf(shown, row.id).follow === "yes";
  const roots = [...new Set(rootsOf(shown.brief))];
  const hz = row.hit.fundamental_hz ?? row.partials[0]?.hz ?? 55;
  // The root in the octave of the hit, where the ear compares.
  const octave = Math.max(0, Math.round(Math.log2(hz / 16.35) - 0.3));
  return (
    <section className="candidates" aria-label={`Where the ${row.name} can go`}>
      {[...new Set(row.remarks)].map((said) => (
        <p key={said} className="tune-remark">
          {said}
        </p>
      ))}
      <div className="tune-against" role="group" aria-label="Hear it against a root">
        <span>against the root</span>
        {roots.map((root) => {
          const beat = row.beats.find((one) => one.root === root);
          return (
            <Button
              key={root}
              size="sm"
              variant="outline-secondary"
              title={`Hear the ${row.name} over a steady ${root}`}
              onClick={() => strike({ against: `${root}${octave}` })}
            >
              {root}
              {beat ? ` · beats ${beat.beat_hz.toFixed(1)} Hz` : ""}
            </Button>
          );
        })}
      </div>
      {row.aim !== "free" && (roots.length > 1 || follows) && (
        <Form.Check
          id="follow-chords"
          className="follow"
          label={follow?.label}
          title={follow?.help}
          checked={follows}
          onChange={(event) =>
            change(
              editHit(row.id, (old) => ({
                ...old,
                follow: event.target.checked ? "yes" : "no",
              })),
            )
          }
        />
      )}
      {row.moves.length > 0 && (
        <ol className={`moves${stale ? " dim" : ""}`}>
          {row.moves.slice(0, 5).map((move, index) => {
            const there = Math.abs(move.shift_cents) < 1;
            return (
              <li key={move.midi} className={index === 0 ? "move nearest" : "move"}>
                <b>{move.note}</b>
                <span>
                  {move.hz.toFixed(2)} Hz
                  {move.is_tonic && <em> tonic</em>}
                  {!move.wanted && <em className="calm"> not aimed at</em>}
                </span>
                <span>
                  {there
                    ? "there"
                    : Math.abs(move.shift_cents) < 100
                      ? cents(move.shift_cents)
                      : semitones(move.shift_semitones)}
                </span>
                <span>
                  {row.resampled && !there
                    ? `${millis(row.hit.length_ms)} → ${millis(move.new_length_ms)}`
                    : "same length"}
                </span>
                <span>
                  {there ? "" : told(move.bands_change_db)}
                  {!move.club_plays_it && <em className="warn"> too low for most clubs</em>}
                  {move.small_speaker_plays_it === false && (
                    <em className="warn"> lost on small speakers</em>
                  )}
                </span>
                <Button
                  size="sm"
                  variant={index === 0 ? "primary" : "outline-primary"}
                  disabled={there || stale}
                  aria-label={there ? `${move.note}: in tune` : `Tune to ${move.note}`}
                  onClick={() => props.onTune(move.note)}
                >
                  {there ? "in tune" : "Tune"}
                </Button>
              </li>
            );
          })}
        </ol>
      )}
      {row.partials.length > 1 && (
        <p className="calm partials">
          Clear tones:{" "}
          {row.partials
            .map(
              (one) =>
                `${one.hz.toFixed(1)} Hz ${one.note} ${decibels(one.level_db, 0)}${one.harmonic ? "" : ` ×${one.ratio.toFixed(2)}`}`,
            )
            .join(" · ")}
        </p>
      )}
    </section>
  );
}
