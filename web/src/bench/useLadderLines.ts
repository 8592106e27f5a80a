import type { TrackState } from "../api/client";
import type { StepId } from "../steps/steps";
import { useDesk } from "../track/context";
import { editBass } from "../track/lines";
import { type Edit, voicesOf } from "../track/parts";
import { limited } from "./beat/frame";
import { useLimits } from "./useLimits";

/** A frequency that is dragged on the ladder. */
export interface LadderLine {
  side: "kick" | "bass";
  label: string;
  hz: number;
  low: number;
  high: number;
  /** Where a double-click takes it. */
  usual: number;
  set: (hz: number) => void;
}

type Side = "kick" | "bass";

const valueOf = ({ separate }: TrackState, side: Side, name: string) =>
  (separate[side] as unknown as Record<string, number>)[name];

const carve =
  (side: Side, changes: object): Edit =>
  (old) => ({
    ...old,
    separate: { ...old.separate, [side]: { ...old.separate[side], ...changes } },
  });

/** Cuts and crossovers that a step has to do with, each at its frequency. */
export function useLadderLines(step: StepId): LadderLine[] {
  const { shown, trial, change } = useDesk();
  const bass = useLimits("bass");
  const limits = { kick: useLimits("carve_kick"), bass: useLimits("carve_bass") };
  if (trial) return [];
  const carved = (side: Side, name: string, label: string): LadderLine => {
    const { low, high, default: usual } = limits[side](name);
    return {
      side,
      label,
      low,
      high,
      usual,
      hz: valueOf(shown, side, name) ?? low,
      set: (hz) => change(carve(side, { [name]: Math.round(limited(hz, low, high)) })),
    };
  };
  /** Whether a dial does anything as it stands. */
  const works = (side: Side, name: string) => valueOf(shown, side, name) !== limits[side](name).off;
  if (step === "separate") return separating(works, carved);
  const { low, high, off, default: usual } = bass("highpass_hz");
  const line = voicesOf(shown)[0];
  const cut = line?.bass.kind === "made" ? line.bass.recipe.highpass_hz : off;
  if (!line || cut === null || cut === undefined || cut === off) return [];
  const set = (hz: number) =>
    change(editBass(line.id, { highpass_hz: Math.round(limited(hz, low, high)) }));
  return [{ side: "bass", label: "High-pass of the bass", hz: cut, low, high, usual, set }];
}

/** What either side gives up: its high-pass always, the others where they do something. */
function separating(
  works: (side: Side, name: string) => boolean,
  carved: (side: Side, name: string, label: string) => LadderLine,
): LadderLine[] {
  const found = (["kick", "bass"] as const).flatMap((side) => [
    carved(side, "highpass_hz", `What the ${side} leaves below`),
    ...(works(side, "cut_db") ? [carved(side, "cut_hz", `Cut in the ${side}`)] : []),
  ]);
  const split = ["steady_ratio", "mid_copy_db"].some((name) => works("bass", name));
  return split ? [...found, carved("bass", "crossover_hz", "Crossover of the bass")] : found;
}
