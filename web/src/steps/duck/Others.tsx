import { useEffect, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { MOST_PARTS } from "../../api/limits";
import { LoopEditor } from "../../bench/chain/LoopEditor";
import { Slider } from "../../bench/Slider";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";
import {
  chordsOf,
  editPart,
  editStem,
  outputsOf,
  newId,
  stemsOf,
  withoutPart,
} from "../../track/parts";
import { withChord, withOutputs } from "../../track/stems";
import { Sources } from "./Sources";

/** A file of the arrangement: asked for, or dropped while this is on the screen. Or what stands in for one. */
export function AddParts() {
  const { shown, change, controls, bring, setDropAs } = useDesk();
  useEffect(() => {
    setDropAs("stem");
    return () => setDropAs(null);
  }, [setDropAs]);
  if (shown.parts.length >= MOST_PARTS) return null;
  return (
    <>
      <SoundFile label="Sound file for a stem" onFile={(file) => bring(file, "stem")}>
        Add a stem, or drop it…
      </SoundFile>
      <Button
        size="sm"
        variant="outline-secondary"
        title="A chord held over every root, so that a ducking is heard before there is a pad"
        onClick={() => change(withChord(newId(), controls))}
      >
        Add a held chord
      </Button>
      <Button
        size="sm"
        variant="outline-secondary"
        title="Outputs of other parts with a chain of their own: a copy, a send, or a group"
        onClick={() => change(withOutputs(newId(), controls))}
      >
        Add a copy or group
      </Button>
    </>
  );
}

/** Stems of the arrangement and held chords: heard with everything else. */
export function Others() {
  const { shown, change, controls, say } = useDesk();
  const [open, setOpen] = useState("");
  const begin = controls["stem"]?.controls.find(({ name }) => name === "begin_ms");
  const gain = controls["place"]?.controls.find(({ name }) => name === "gain_db");
  const parts = [...stemsOf(shown), ...chordsOf(shown), ...outputsOf(shown)];
  return (
    <section aria-label="Stems, chords and groups" className="stems">
      {parts.map((part) => (
        <div key={part.id} className="stem" role="group" aria-label={`Stem ${part.name}`}>
          <span>{part.name}</span>
          {gain && (
            <Slider
              control={gain}
              value={part.place.gain_db}
              onChange={(gain_db) =>
                change(editPart(part.id, { place: { ...part.place, gain_db } }))
              }
            />
          )}
          {begin && part.part === "stem" && (
            <Slider
              control={begin}
              value={part.begin_ms}
              onChange={(begin_ms) => change(editStem(part.id, (old) => ({ ...old, begin_ms })))}
            />
          )}
          <Button
            size="sm"
            variant={open === part.id ? "secondary" : "outline-secondary"}
            aria-expanded={open === part.id}
            onClick={() => setOpen(open === part.id ? "" : part.id)}
          >
            chain and place
          </Button>
          <Form.Check
            type="switch"
            id={`heard-${part.id}`}
            label="heard"
            checked={!part.mute}
            onChange={(event) => change(editPart(part.id, { mute: !event.target.checked }))}
          />
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Remove the stem ${part.name}`}
            onClick={() => {
              change(withoutPart(part.id));
              say(`${part.name} is gone, out of its duckings too. Undo brings it back.`);
            }}
          >
            Remove
          </Button>
          {open === part.id && (
            <div className="part-body">
              {part.part === "outputs" && <Sources part={part} />}
              <LoopEditor part={part} />
            </div>
          )}
        </div>
      ))}
    </section>
  );
}
