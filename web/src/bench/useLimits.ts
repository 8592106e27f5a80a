import type { Control } from "../api/client";
import { useDesk } from "../track/context";

/** The limits of a field, as its recipe gives them. */
export function useLimits(
  sheet: "source:kick" | "bass" | "duck" | "carve_kick" | "carve_bass",
): (name: string) => Control {
  const { controls } = useDesk();
  return (name) => {
    const found = controls[sheet]?.controls.find((control) => control.name === name);
    if (!found) throw new Error(`The ${sheet} has no control called ${name}.`);
    return found;
  };
}
