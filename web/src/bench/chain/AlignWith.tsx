import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, type PartAlignment } from "../../api/client";
import { opensByKey } from "../opensByKey";
import { useDesk } from "../../track/context";
import { editPart, type Part } from "../../track/parts";

const hertz = (hz: number) => (hz < 1000 ? hz.toFixed(0) : `${(hz / 1000).toFixed(1)}k`);

const told = (found: PartAlignment, name: string) =>
  `${found.delay_ms.toFixed(2)} ms, ${found.polarity}: ${hertz(found.band_hz[0])}–${hertz(found.band_hz[1])} Hz ` +
  `with ${name} is ${found.gain_db >= 0 ? "+" : "−"}${Math.abs(found.gain_db).toFixed(1)} dB, ` +
  `${Math.round(100 * found.in_common)} % in common.`;

/** Brings a part in time and polarity with another one. */
export function AlignWith({ part }: { part: Part }) {
  const { state, shown, change, say } = useDesk();
  const [busy, setBusy] = useState(false);
  const others = shown.parts.filter((one) => one.id !== part.id && one.part !== "outputs");
  const align = async (against: string) => {
    setBusy(true);
    try {
      const found = await api.alignPart(state, part.id, against);
      const { delay_ms } = found;
      const polarity = found.polarity as Part["place"]["polarity"];
      change(editPart(part.id, { place: { ...part.place, delay_ms, polarity } }));
      say(told(found, others.find((one) => one.id === against)?.name ?? ""));
    } catch (error) {
      say((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Form.Select
      size="sm"
      className="align-with"
      aria-label="Align with"
      onKeyDown={opensByKey}
      title="Delay and polarity with which it adds up best with another part, where both have something to say"
      value=""
      disabled={busy || others.length === 0}
      onChange={(event) => void align(event.target.value)}
    >
      <option value="">{busy ? "Aligning…" : "Align with…"}</option>
      {others.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </Form.Select>
  );
}
