import { Button, Form } from "react-bootstrap";
import { useEffect } from "react";
import { Slider } from "../../bench/Slider";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";
import { editStem, MOST_STEMS, withoutStem } from "../../track/stems";

/** A file of the arrangement: asked for, or dropped while this is on the screen. */
export function AddStem() {
  const { shown, bring, setDropAs } = useDesk();
  useEffect(() => {
    setDropAs("stem");
    return () => setDropAs(null);
  }, [setDropAs]);
  if (shown.stems.length >= MOST_STEMS) return null;
  return (
    <SoundFile label="Sound file for a stem" onFile={(file) => bring(file, "stem")}>
      Add a stem, or drop it…
    </SoundFile>
  );
}

/** Stems of the arrangement: files at the track's tempo that duckings may turn down. */
export function Stems() {
  const { shown, change, controls, say } = useDesk();
  const sheet = controls["stem"];
  return (
    <section aria-label="Stems" className="stems">
      {shown.stems.map((stem, n) => (
        <div key={stem.name} className="stem" role="group" aria-label={`Stem ${stem.name}`}>
          <span>{stem.name}</span>
          {sheet?.controls.map((control) => (
            <Slider
              key={control.name}
              control={control}
              value={(stem as unknown as Record<string, number>)[control.name] ?? control.default}
              onChange={(value) => change(editStem(n, { [control.name]: value }))}
            />
          ))}
          <Form.Check
            type="switch"
            id={`stem-${n}`}
            label="heard"
            checked={!stem.mute}
            onChange={(event) => change(editStem(n, { mute: !event.target.checked }))}
          />
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Remove the stem ${stem.name}`}
            onClick={() => {
              change(withoutStem(n));
              say(`The stem ${stem.name} is gone. Undo brings it back.`);
            }}
          >
            Remove
          </Button>
        </div>
      ))}
    </section>
  );
}
