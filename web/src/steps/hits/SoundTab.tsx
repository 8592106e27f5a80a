import { useQuery } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type Source } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";
import { editLayer, editSource } from "../../track/edits";
import { editHit, hitOf } from "../../track/parts";
import { HitNumbers } from "../HitNumbers";
import { Apart } from "./Apart";
import type { TabProps } from "./HitEditor";

const NAMES: Record<string, string> = {
  kick: "kick",
  "808": "808",
  snare: "snare: tone and noise",
  membrane: "snare: struck membranes",
  clap: "clap",
  hat: "hat, cymbal",
  percussion: "tom, percussion",
};

/** What a layer sounds from: made from its recipe, or a file of one's own. */
export function SoundTab({ id, layer }: TabProps) {
  const { shown, change, controls, hit: view, bring } = useDesk();
  const starts = useQuery({ queryKey: ["starts"], queryFn: api.starts, staleTime: Infinity });
  const hit = hitOf(shown, id);
  const source = hit?.layers[layer]?.source;
  const sheet = source && controls[`source:${source.kind}`];
  if (!hit || !source || !sheet) return null;
  const put = (next: Source) =>
    change(
      editHit(
        id,
        editLayer(layer, (old) => ({ ...old, source: next })),
      ),
    );
  const points = starts.data?.[source.kind] ?? {};
  const recipe = source.kind === "imported" ? source : source.recipe;
  const same = (one: Source) => JSON.stringify(one) === JSON.stringify(source);
  return (
    <>
      <HitNumbers of={view} name={hit.name} />
      <div className="source">
        <select
          className="form-select form-select-sm source-kind"
          aria-label="Where the sound comes from"
          value={source.kind}
          onChange={(event) => {
            const first = Object.values(starts.data?.[event.target.value] ?? {})[0];
            if (first) put(first);
          }}
        >
          {Object.entries(NAMES).map(([kind, name]) => (
            <option key={kind} value={kind}>
              {name}
            </option>
          ))}
          {source.kind === "imported" && <option value="imported">a file</option>}
        </select>
        {source.kind !== "imported" && (
          <select
            className="form-select form-select-sm source-start"
            aria-label="Starting point"
            value={Object.keys(points).find((name) => same(points[name]!)) ?? ""}
            onChange={(event) => {
              const start = points[event.target.value];
              if (start) put(start);
            }}
          >
            <option value="">starting points…</option>
            {Object.keys(points).map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        )}
        <SoundFile label="Sound file for the hit" onFile={(file) => bring(file, "hit")}>
          Your file…
        </SoundFile>
        <span className="source-name">
          {source.kind === "imported" ? source.name : "or drop a sound file here"}
        </span>
      </div>
      {source.kind === "imported" && <Apart hit={hit} layer={layer} />}
      {source.kind === "imported" && source.takes.length > 0 && (
        <Takes
          source={source}
          onChange={(takes) => change(editHit(id, editLayer(layer, editSource({ takes }))))}
        />
      )}
      <Controls
        sheet={sheet}
        recipe={recipe as object}
        onChange={(changes) => change(editHit(id, editLayer(layer, editSource(changes))))}
      />
    </>
  );
}

type Sampled = Extract<Source, { kind: "imported" }>;

/** Other takes of the same sound: in turn at full velocity, or for softer strokes. */
function Takes(props: { source: Sampled; onChange: (takes: Sampled["takes"]) => void }) {
  const { source, onChange } = props;
  return (
    <ul className="other-takes" aria-label="Takes of this sound">
      <li>
        <span>{source.name}</span>
        <small>full velocity</small>
      </li>
      {source.takes.map((take, n) => (
        <li key={n}>
          <span>{take.name}</span>
          <label>
            up to
            <input
              type="range"
              min={0.02}
              max={1}
              step={0.01}
              value={take.up_to}
              aria-label={`${take.name} plays up to`}
              aria-valuetext={`${Math.round(100 * take.up_to)} per cent`}
              onChange={(event) =>
                onChange(
                  source.takes.map((one, m) =>
                    m === n ? { ...one, up_to: Number(event.target.value) } : one,
                  ),
                )
              }
            />
            <b>{take.up_to === 1 ? "in turn" : `${Math.round(100 * take.up_to)} %`}</b>
          </label>
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Take ${take.name} out`}
            onClick={() => onChange(source.takes.filter((_, m) => m !== n))}
          >
            out
          </Button>
        </li>
      ))}
    </ul>
  );
}
