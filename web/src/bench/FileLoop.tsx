import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type FitCost } from "../api/client";
import { useDesk } from "../track/context";
import { useLatest } from "../track/latest";

interface Props {
  /** The part that the file is, or sounds. */
  part: string;
  name: string;
  fit: string;
  silent: readonly number[];
  onSilent: (places: number[]) => void;
}

const told = (cost: FitCost) =>
  cost.slices > 0
    ? `Cut into ${cost.slices} slices; ` +
      (cost.swing_percent ? `it was played with ${cost.swing_percent.toFixed(0)} % swing; ` : "") +
      (cost.cut_ms > 0
        ? `the longest loses ${cost.cut_ms.toFixed(0)} ms of its end.`
        : `up to ${cost.gap_ms.toFixed(0)} ms of silence between them.`)
    : cost.semitones !== 0
      ? `Everything in it is ${Math.abs(cost.semitones).toFixed(1)} semitones ${cost.semitones > 0 ? "higher" : "lower"}.`
      : "Nothing is changed: it is at the tempo of the track.";

/** What is special about a file that runs as a loop: sixteenths that are silenced, and what a fit costs. */
export function FileLoop({ part, name, fit, silent, onSilent }: Props) {
  const { state, shown, bar, setBar, change, say } = useDesk();
  const bars = shown.brief.chord_roots.length;
  const cost = useLatest(
    useMemo(() => (fit === "as it is" ? null : { state: shown, part }), [fit, shown, part]),
    api.fitCost,
  );
  const [busy, setBusy] = useState(false);
  const cut = () => {
    setBusy(true);
    api
      .sliced(state, part)
      .then((found) => {
        change(() => found.state);
        say(
          [`${name} is muted; now its slices are ${found.names.join(", ")}.`, ...found.said].join(
            " ",
          ),
        );
      })
      .catch((error: Error) => say(error.message))
      .finally(() => setBusy(false));
  };
  const toggle = (place: number) =>
    onSilent(
      silent.includes(place)
        ? silent.filter((one) => one !== place)
        : [...silent, place].sort((a, b) => a - b),
    );
  return (
    <div className="file-loop">
      <div role="group" aria-label={`Silenced sixteenths of ${name}, bar ${bar + 1}`}>
        <span>silenced</span>
        {Array.from({ length: 16 }, (_, n) => {
          const place = 16 * bar + n;
          const off = silent.includes(place);
          return (
            <button
              key={n}
              type="button"
              className={`silence ${off ? "off" : ""} ${n % 4 === 0 ? "beat" : ""}`}
              aria-pressed={off}
              aria-label={`Sixteenth ${n + 1}`}
              onClick={() => toggle(place)}
            />
          );
        })}
        <Button
          size="sm"
          variant="outline-secondary"
          title="Cut at its strokes: each kind of drum becomes a hit whose strokes can be moved"
          disabled={busy}
          onClick={cut}
        >
          {busy ? "Cutting…" : "Cut into hits"}
        </Button>
        {bars > 1 && (
          <select
            className="form-select form-select-sm"
            aria-label="Bar whose sixteenths are shown"
            value={bar}
            onChange={(event) => setBar(Number(event.target.value))}
          >
            {Array.from({ length: bars }, (_, n) => (
              <option key={n} value={n}>
                bar {n + 1}
              </option>
            ))}
          </select>
        )}
      </div>
      {fit !== "as it is" && (
        <p className={cost.stale ? "why dim" : "why"}>
          {cost.error?.message ?? (cost.data ? told(cost.data) : "")}
        </p>
      )}
    </div>
  );
}
