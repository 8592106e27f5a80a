import { useMemo, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import {
  api,
  type Aligned,
  type Brief,
  type Hit,
  type Layer,
  type LayersView,
  type LayerView,
} from "../../api/client";
import { Controls } from "../../bench/Controls";
import { SoundFile } from "../../bench/SoundFile";
import { decibels, maybe, signed } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { editLayer, newLayer } from "../../track/edits";
import { editHit, hitOf } from "../../track/parts";
import { useLatest } from "../../track/latest";
import type { TabProps } from "./HitEditor";
import { lengthOf, Picture } from "./Picture";

const JOBS: Layer["job"][] = ["click", "body", "sub", "tail", "texture", "width"];
const BANDS: [string, number, number][] = [
  ["everything", 20, 20000],
  ["low, 20–150 Hz", 20, 150],
  ["body, 60–600 Hz", 60, 600],
  ["snap, 2–5 kHz", 2000, 5000],
];
const askLayers = ({ brief, hit }: { brief: Brief; hit: Hit }) => api.layers(brief, hit);

/** Up to eight layers, each with its job and its place; how they join. */
export function LayersTab({ id, layer, chooseLayer }: TabProps) {
  const { shown, change, controls, strike, bring } = useDesk();
  const hit = hitOf(shown, id);
  const { brief } = shown;
  const view = useLatest(
    useMemo(() => ({ brief, hit }), [brief, hit]),
    askLayers,
  );
  const sheet = controls["layer"];
  const one = hit.layers[layer];
  const edit = (at: number, changes: Partial<Layer>) =>
    change(
      editHit(
        id,
        editLayer(at, (old) => ({ ...old, ...changes })),
      ),
    );
  const add = () => {
    const source = one?.source ?? hit.layers[0]!.source;
    change(
      editHit(id, (old) => ({
        ...old,
        layers: [...old.layers, newLayer(controls, source, `layer ${old.layers.length + 1}`)],
      })),
    );
    chooseLayer(hit.layers.length);
  };
  const remove = () => {
    change(editHit(id, (old) => ({ ...old, layers: old.layers.filter((_, n) => n !== layer) })));
    chooseLayer(Math.max(0, layer - 1));
  };
  const views = view.data?.layers ?? [];
  const span = Math.max(1, ...views.map((each) => lengthOf(each.picture)));
  if (!sheet || !one) return null;
  return (
    <div className="layers">
      <div>
        <ol className={`layer-list${view.stale ? " dim" : ""}`} aria-label="Layers">
          {hit.layers.map((each, n) => {
            const seen = views.find((found) => found.layer === n);
            return (
              <li key={n} className={n === layer ? "layer-row at-hand" : "layer-row"}>
                <button
                  type="button"
                  className="layer-name"
                  onClick={() => chooseLayer(n)}
                  aria-pressed={n === layer}
                >
                  {n + 1} {each.name}
                </button>
                <select
                  className="form-select form-select-sm"
                  aria-label={`Job of layer ${n + 1}`}
                  value={each.job}
                  onChange={(event) => edit(n, { job: event.target.value as Layer["job"] })}
                >
                  {JOBS.map((job) => (
                    <option key={job}>{job}</option>
                  ))}
                </select>
                {seen ? (
                  <Picture picture={seen.picture} span={span} />
                ) : (
                  <span className="why">silent</span>
                )}
                <span
                  className="layer-missed"
                  title="The largest change of any band when it is muted"
                >
                  {seen?.share ? missed(seen.share.missed_db) : "–"}
                </span>
                <ButtonGroup size="sm">
                  <Button
                    variant={each.mute ? "secondary" : "outline-secondary"}
                    aria-pressed={each.mute}
                    aria-label={`Mute layer ${n + 1}`}
                    onClick={() => edit(n, { mute: !each.mute })}
                  >
                    mute
                  </Button>
                  <Button
                    variant={each.solo ? "secondary" : "outline-secondary"}
                    aria-pressed={each.solo}
                    aria-label={`Solo layer ${n + 1}`}
                    onClick={() => edit(n, { solo: !each.solo })}
                  >
                    solo
                  </Button>
                  <Button
                    variant="outline-secondary"
                    aria-label={`Hear layer ${n + 1}`}
                    onClick={() => strike({ layer: n })}
                  >
                    hear
                  </Button>
                </ButtonGroup>
              </li>
            );
          })}
        </ol>
        <div className="layer-buttons">
          <Button
            size="sm"
            variant="outline-primary"
            onClick={add}
            disabled={hit.layers.length >= 8}
          >
            + layer
          </Button>
          {hit.layers.length < 8 && (
            <SoundFile
              label="Sound file for one more layer"
              onFile={(file) => {
                bring(file, "layer");
                chooseLayer(hit.layers.length);
              }}
            >
              + layer from file…
            </SoundFile>
          )}
          <input
            className="form-control form-control-sm"
            aria-label={`Name of layer ${layer + 1}`}
            maxLength={60}
            value={one.name}
            onChange={(event) => event.target.value && edit(layer, { name: event.target.value })}
          />
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={remove}
            disabled={hit.layers.length < 2}
          >
            remove layer {layer + 1}
          </Button>
        </div>
        <Gives view={views.find((found) => found.layer === layer)} />
        <Controls sheet={sheet} recipe={one} onChange={(changes) => edit(layer, changes)} />
      </div>
      <div>
        {hit.layers.length > 1 ? (
          <Join key={layer} id={id} layer={layer} hit={hit} view={view.data} />
        ) : (
          <p className="why">
            A second layer can give what this one lacks: a click, a tail, a texture. Give each one
            job, then align them here.
          </p>
        )}
      </div>
    </div>
  );
}

/** What a layer gives to the hit, over time and over frequency, in dB of the whole. */
function Gives({ view }: { view: LayerView | undefined }) {
  const share = view?.share;
  if (!share) return null;
  const rows: [string, Record<string, number>][] = [
    ["over time", share.parts_db],
    ["over frequency", share.bands_db],
  ];
  return (
    <dl className="gives" aria-label="What the layer gives, in dB of the whole hit">
      {rows.map(([what, levels]) => (
        <div key={what}>
          <dt>{what}</dt>
          {Object.entries(levels).map(([name, db]) => (
            <dd key={name} className={db > -12 ? "much" : ""}>
              {name} <b>{db < -60 ? "–" : db.toFixed(0).replace("-", "−")}</b>
            </dd>
          ))}
        </div>
      ))}
    </dl>
  );
}

const missed = (db: number) => (db >= 40 ? "most of it" : `${db.toFixed(1)} dB`);
const HEARD_DB = -3;

/** Where two layers add up, where they cancel, and what their width is made of. */
function Join(props: { id: string; layer: number; hit: Hit; view: LayersView | null }) {
  const { id, layer, hit, view } = props;
  const { shown, change, say } = useDesk();
  const [against, setAgainst] = useState(layer === 0 ? 1 : 0);
  const [band, setBand] = useState(0);
  const [found, setFound] = useState<Aligned | null>(null);
  const place = hit.layers[layer] as Layer;
  const [, low, high] = BANDS[band] as [string, number, number];
  const look = () =>
    api
      .align(shown.brief, hit, { layer, against, low_hz: low, high_hz: high })
      .then(setFound)
      .catch((error: Error) => say(error.message));
  const put = (changes: Partial<Layer>) =>
    change(
      editHit(
        id,
        editLayer(layer, (old) => ({ ...old, ...changes })),
      ),
    );
  const cancelling = (view?.cancellations ?? [])
    .filter((one) => one.gain_db < HEARD_DB)
    .slice(0, 5);
  const name = (n: number) => hit.layers[n]?.name ?? String(n + 1);
  return (
    <>
      <h2 className="small-head">Align layer {layer + 1}</h2>
      <div className="align-wish">
        <label>
          with
          <select
            className="form-select form-select-sm"
            aria-label="Layer to align with"
            value={against}
            onChange={(event) => setAgainst(Number(event.target.value))}
          >
            {hit.layers.map(
              (one, n) =>
                n !== layer && (
                  <option key={n} value={n}>
                    {n + 1} {one.name}
                  </option>
                ),
            )}
          </select>
        </label>
        <label>
          in
          <select
            className="form-select form-select-sm"
            aria-label="Band that decides"
            value={band}
            onChange={(event) => setBand(Number(event.target.value))}
          >
            {BANDS.map(([text], n) => (
              <option key={text} value={n}>
                {text}
              </option>
            ))}
          </select>
        </label>
        <Button size="sm" variant="primary" onClick={() => void look()}>
          Find
        </Button>
      </div>
      {found && (
        <div className="align-found" role="status">
          <p>
            Moved by {signed(found.shift_ms, 2)} ms{found.inverted ? ", polarity inverted" : ""}:
            correlation {found.correlation.toFixed(2)}.
          </p>
          <p className="band-gains">
            {Object.entries(found.gain_db).map(([region, db]) => (
              <span key={region}>
                {region} <b>{signed(db, 1)}</b>
              </span>
            ))}
          </p>
          <Button
            size="sm"
            variant="primary"
            onClick={() => {
              put({ offset_ms: found.offset_ms, polarity: found.inverted ? "inverted" : "normal" });
              setFound(null);
            }}
          >
            Take it
          </Button>
        </div>
      )}
      {(place.offset_ms !== 0 || place.polarity !== "normal") && (
        <Button
          size="sm"
          variant="outline-secondary"
          onClick={() => put({ offset_ms: 0, polarity: "normal" })}
        >
          As played
        </Button>
      )}
      <h2 className="small-head">Cancellation</h2>
      {cancelling.length === 0 ? (
        <p className="calm">No third-octave band loses more than 3 dB by the sum.</p>
      ) : (
        <table className="values">
          <thead>
            <tr>
              <th scope="col">layers</th>
              <th scope="col">band</th>
              <th scope="col">sum</th>
            </tr>
          </thead>
          <tbody>
            {cancelling.map((one) => (
              <tr key={`${one.layers.join()}-${one.band_hz}`}>
                <th scope="row">{one.layers.map(name).join(" + ")}</th>
                <td>
                  {one.band_hz < 1000
                    ? `${one.band_hz.toFixed(0)} Hz`
                    : `${(one.band_hz / 1000).toFixed(1)} kHz`}
                </td>
                <td>{decibels(one.gain_db)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Widths view={view} />
    </>
  );
}

function Widths({ view }: { view: LayersView | null }) {
  const { hit } = useDesk();
  const numbers = hit.data?.hit;
  if (!numbers || numbers.correlation === null) return null;
  return (
    <>
      <h2 className="small-head">Width and mono</h2>
      <p className="why">
        Correlation {numbers.correlation.toFixed(2)}, mono loses{" "}
        {maybe(numbers.mono_loss_db, (db) => decibels(-db))}, below 150 Hz{" "}
        {maybe(numbers.low_mono_loss_db, (db) => decibels(-db))}.
        {view?.delayed_width &&
          ` One side is the other ${view.delayed_width.delay_ms.toFixed(1)} ms later: summed to mono it combs, first at ${view.delayed_width.first_notch_hz.toFixed(0)} Hz. Two different sounds left and right do not.`}
      </p>
    </>
  );
}
