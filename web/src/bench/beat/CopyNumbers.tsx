import { Button } from "react-bootstrap";
import type { HitView } from "../../api/client";
import { useDesk } from "../../track/context";
import { hitOf } from "../../track/parts";
import { cents, decibels, maybe, millis } from "../scale";

/** What is measured of a hit, in a line that can be pasted anywhere. */
export function numbersOf(name: string, hit: HitView["hit"]): string {
  const note =
    hit.fundamental_hz === null
      ? "no note"
      : `${hit.note} ${maybe(hit.cents, cents)} (${hit.fundamental_hz.toFixed(2)} Hz)`;
  return [
    `${name}: ${note}`,
    `length ${millis(hit.length_ms)}`,
    `60 dB down after ${maybe(hit.decay60_ms, millis)}`,
    `peak ${decibels(hit.peak_dbfs)}FS`,
    `loudness ${maybe(hit.momentary_max_lufs, (lufs) => `${lufs.toFixed(1).replace("-", "−")} LUFS`)}`,
  ].join(", ");
}

/** A hit's numbers for somewhere else: a note, a message, a table. */
export function CopyNumbers() {
  const { hit: view, hitId, shown, say } = useDesk();
  const numbers = view.data && numbersOf(hitOf(shown, hitId).name, view.data.hit);
  return (
    <Button
      size="sm"
      variant="outline-secondary"
      title={numbers ?? "Nothing is measured yet"}
      disabled={!numbers}
      onClick={() =>
        void navigator.clipboard
          .writeText(numbers ?? "")
          .then(() => say("The numbers are copied."))
          .catch(() => say("The browser does not let this page copy."))
      }
    >
      Copy numbers
    </Button>
  );
}
