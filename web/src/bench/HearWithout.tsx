import { Button } from "react-bootstrap";
import type { TrackState } from "../api/client";
import { useDesk } from "../track/context";

interface Props {
  /** What is left out, as the comparison names it, and whether it does anything now. */
  of: string;
  on: boolean;
  without: (state: TrackState) => TrackState;
}

/** The loop as it stands against the loop without one thing of it, equally loud; pressed again it is over. */
export function HearWithout({ of, on, without }: Props) {
  const { state, compare, listening } = useDesk();
  const label = `without ${of}`;
  const going = compare.against?.label === label;
  if (!on && !going) return null;
  return (
    <Button
      size="sm"
      variant={going ? "secondary" : "outline-secondary"}
      aria-pressed={going}
      title="The loop as it stands against the loop without this, equally loud"
      onClick={() => {
        if (going) return compare.end();
        compare.begin({ label, state: without(state) });
        listening.start();
      }}
    >
      hear without
    </Button>
  );
}
