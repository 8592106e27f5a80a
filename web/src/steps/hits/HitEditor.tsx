import type { ComponentType } from "react";
import { Button } from "react-bootstrap";
import { Tabs } from "../../bench/Tabs";
import { useDesk } from "../../track/context";
import type { Hit } from "../../api/client";
import { STROKES } from "../../bench/hand/strokes";
import { useTab } from "../../bench/useAddress";
import { useShortcuts } from "../../bench/useShortcuts";
import { LayersTab } from "./LayersTab";
import { LoopTab } from "./LoopTab";
import { PlayTab } from "./PlayTab";
import { ScatterTab } from "./ScatterTab";
import { ShapeTab } from "./ShapeTab";
import { SoundTab } from "./SoundTab";
import { SaveWav } from "./SaveWav";
import { TakesTab } from "./TakesTab";
import "./hits.css";

const TABS = [
  { id: "sound", name: "Sound", View: SoundTab },
  { id: "layers", name: "Layers", View: LayersTab },
  { id: "shape", name: "Shape", View: ShapeTab },
  { id: "loop", name: "Loop", View: LoopTab },
  { id: "scatter", name: "Scatter", View: ScatterTab },
  { id: "play", name: "Strokes", View: PlayTab },
  { id: "takes", name: "Record & cut", View: TakesTab },
] as const;

const TAB_IDS = TABS.map(({ id }) => id);

export interface TabProps {
  /** Which hit. */
  id: string;
  /** Which of its layers is at hand. */
  layer: number;
  chooseLayer: (layer: number) => void;
}

/** A drum of the track: made, recorded, shaped and layered. */
export function HitEditor({ hit }: { hit: Hit }) {
  const { layerAt: layer, chooseLayer, strike } = useDesk();
  const [tab, setTab] = useTab(TAB_IDS);
  const at = TABS.findIndex(({ id }) => id === tab);
  useShortcuts({
    ",": () => setTab(TABS[(at + TABS.length - 1) % TABS.length]!.id),
    ".": () => setTab(TABS[(at + 1) % TABS.length]!.id),
    ...Object.fromEntries(
      STROKES.map(({ letter, velocity }) => [letter, () => strike({ velocity })]),
    ),
  });
  const View: ComponentType<TabProps> = TABS[at]!.View;
  return (
    <>
      <div className="hit-tabs">
        <Tabs
          label="What is done to the hit"
          name="tab"
          tabs={TABS.map(({ id, name }) => [id, name] as const)}
          at={tab}
          onChoose={setTab}
        />
        {hit.layers.length > 1 && (tab === "sound" || tab === "scatter") && (
          <label className="layer-choice">
            layer
            <select
              className="form-select form-select-sm"
              aria-label="Selected layer"
              value={layer}
              onChange={(event) => chooseLayer(Number(event.target.value))}
            >
              {hit.layers.map((one, n) => (
                <option key={n} value={n}>
                  {n + 1} {one.name}
                </option>
              ))}
            </select>
          </label>
        )}
        <span className="spring" />
        {STROKES.map(({ letter, name, velocity }) => (
          <Button
            key={name}
            size="sm"
            variant="outline-secondary"
            title={`Hear a ${name} stroke (${letter.toUpperCase()})`}
            onClick={() => strike({ velocity })}
          >
            {name}
          </Button>
        ))}
        <SaveWav hit={hit} />
      </div>
      <View key={hit.id} id={hit.id} layer={layer} chooseLayer={chooseLayer} />
    </>
  );
}
