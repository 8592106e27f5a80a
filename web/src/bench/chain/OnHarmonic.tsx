import type { BriefFacts, Stage } from "../../api/client";
import { opensByKey } from "../opensByKey";
import { useDesk } from "../../track/context";

/** Controls that can be put on a harmonic of the key’s root: what they are called, and what is set for it. */
const PLACES: Partial<Record<Stage["stage"], [string, (hz: number) => object][]>> = {
  equaliser: [
    ["bell", (hz) => ({ bell_hz: hz })],
    ["second bell", (hz) => ({ second_hz: hz })],
  ],
  resonator: [["tune", (hz) => ({ tune_hz: hz })]],
  // Half an octave around it.
  drive: [["band", (hz) => ({ from_hz: round(hz / 2 ** 0.25), to_hz: round(hz * 2 ** 0.25) })]],
};
const HARMONICS = [1, 2, 3, 4, 5, 6, 7, 8];
/** Roots of basses begin here. */
const LOWEST_HZ = 32;

const round = (hz: number) => Math.round(hz * 10) / 10;

/** The key’s root in its lowest usual octave. */
export const rootOf = (facts: BriefFacts) =>
  facts.ladder.find(({ is_tonic, hz }) => is_tonic && hz > LOWEST_HZ);

interface Props {
  stage: Stage["stage"];
  onPut: (changes: object) => void;
}

/** Puts a stage on a named harmonic of the root. */
export function OnHarmonic({ stage, onPut }: Props) {
  const { facts } = useDesk();
  const places = PLACES[stage];
  const root = rootOf(facts);
  if (!places || !root) return null;
  return (
    <select
      className="form-select form-select-sm add-hit"
      aria-label="On a harmonic of the root"
      onKeyDown={opensByKey}
      title={`Counted from the root of the key, ${root.note} at ${root.hz.toFixed(1)} Hz`}
      value=""
      onChange={(event) => {
        const [place, harmonic] = event.target.value.split(" ").map(Number);
        onPut(places[place ?? 0]![1](round(root.hz * (harmonic ?? 1))));
      }}
    >
      <option value="">on a harmonic…</option>
      {places.map(([name], place) => (
        <optgroup key={name} label={name}>
          {HARMONICS.map((n) => (
            <option key={n} value={`${place} ${n}`}>
              {n === 1 ? "root" : `harmonic ${n}`} · {(root.hz * n).toFixed(1)} Hz
            </option>
          ))}
        </optgroup>
      ))}
    </select>
  );
}
