import { useEffect, useRef, useState, type ReactNode } from "react";
import { Button } from "react-bootstrap";
import { api, type Hit, type Recording, type TakeNumbers } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { decibels, maybe, millis } from "../../bench/scale";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";
import { imported, newHit, newLayer, withRecording } from "../../track/edits";
import { editHit, hitOf, withPart } from "../../track/parts";
import type { TabProps } from "./HitEditor";
import { RecordButton } from "./RecordButton";
import { Wave } from "./Wave";
import "./takes.css";

type Cut = Recording["takes"][number];
const JOB_KIND: Record<string, Hit["kind"]> = {
  kick: "kick",
  snare: "snare",
  hat: "hat",
  tom: "tom",
  texture: "texture",
};

const VERDICTS = { keep: "kept", discard: "discarded", open: "undecided" } as const;

/** A take as a source: a stretch of its recording. */
const sourceOf = (recording: Recording, take: Cut, name: string) => ({
  ...imported(recording.audio, name),
  start_ms: take.start_ms,
  end_ms: take.end_ms,
});

/** What is told of a take, above the list. */
const HEADS = ["take", "peak", "length", "note", "centroid", "noise", "kind"];

/** A number of a take, with its head for whoever hears the list. */
function Cell(props: { head: number; title?: string; children: ReactNode }) {
  return (
    <span title={props.title}>
      <span className="visually-hidden">{HEADS[props.head]} </span>
      {props.children}
    </span>
  );
}

/** A recording, from the microphone or a file, cut into takes that become hits and layers. */
export function TakesTab({ id, chooseLayer }: TabProps) {
  const { shown, change, controls, setDropAs, bring, say } = useDesk();
  const [wish, setWish] = useState(0);
  useEffect(() => {
    setDropAs("recording");
    return () => setDropAs(null);
  }, [setDropAs]);
  const at = Math.min(wish, shown.recordings.length - 1);
  const recording = shown.recordings[at];
  const workshop = () => {
    api
      .workshop()
      .then(({ audio, name }) => change((old) => withRecording(old, controls, audio, name)))
      .catch((error: Error) => say(error.message));
  };
  return (
    <div className="takes">
      <div className="takes-head">
        <RecordButton onRecorded={(blob) => bring(blob, "recording")} />
        <SoundFile label="Recording to cut" onFile={(file) => bring(file, "recording")}>
          Your file…
        </SoundFile>
        <Button size="sm" variant="outline-secondary" onClick={workshop}>
          Simulated workshop
        </Button>
        {shown.recordings.length > 1 && (
          <select
            className="form-select form-select-sm"
            aria-label="Selected recording"
            value={at}
            onChange={(event) => setWish(Number(event.target.value))}
          >
            {shown.recordings.map((one, n) => (
              <option key={n} value={n}>
                {one.name}
              </option>
            ))}
          </select>
        )}
        {recording && (
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() =>
              change((old) => ({ ...old, recordings: old.recordings.filter((_, n) => n !== at) }))
            }
          >
            remove
          </Button>
        )}
      </div>
      {recording ? (
        <OneRecording
          key={recording.audio}
          recording={recording}
          at={at}
          id={id}
          chooseLayer={chooseLayer}
        />
      ) : (
        <p className="calm">
          Record something struck, drop a recording here, or begin with the simulated workshop. Any
          object may play a part: what is deep and sharp a kick, what is short and noisy a hat.
          Strike nothing that can break or fall, and never yourself or others.
        </p>
      )}
    </div>
  );
}

function OneRecording(props: {
  recording: Recording;
  at: number;
  id: string;
  chooseLayer: (layer: number) => void;
}) {
  const { recording, at, id, chooseLayer } = props;
  const { shown, state, change, controls, choosePart, strike, say } = useDesk();
  const [numbers, setNumbers] = useState<Record<string, TakeNumbers>>({});
  const [wish, choose] = useState(0);
  const [bulk, setBulk] = useState("");
  const { brief } = shown;
  const chosen = Math.min(wish, recording.takes.length - 1);
  const take = recording.takes[chosen];
  const nameOf = (one: Cut, n: number) => one.name || `take ${n + 1}`;
  const put = (to: (old: Recording) => Recording) =>
    change((old) => ({
      ...old,
      recordings: old.recordings.map((one, n) => (n === at ? to(one) : one)),
    }));
  const putTake = (n: number, changes: Partial<Cut>) =>
    put((old) => ({
      ...old,
      takes: old.takes.map((one, m) => (m === n ? { ...one, ...changes } : one)),
    }));
  const key = (one: { start_ms: number; end_ms: number }) =>
    `${one.start_ms.toFixed(3)}-${one.end_ms.toFixed(3)}`;
  const remember = (found: TakeNumbers[]) =>
    setNumbers((old) => ({ ...old, ...Object.fromEntries(found.map((one) => [key(one), one])) }));
  const cut = () =>
    api
      .cut({ ...recording, takes: [] }, brief)
      .then((found) => {
        remember(found);
        put((old) => ({
          ...old,
          takes: found.map(({ start_ms, end_ms }) => ({
            start_ms,
            end_ms,
            name: "",
            verdict: "open",
          })),
        }));
        say(`${found.length} takes. Keep with +, discard with −.`);
      })
      .catch((error: Error) => say(error.message));
  // What was cut in an earlier session is measured again, once.
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current || recording.takes.length === 0) return;
    asked.current = true;
    void Promise.all(
      recording.takes.map((one) =>
        api.measureTake(recording.audio, brief, one.start_ms, one.end_ms),
      ),
    )
      .then((found) =>
        setNumbers((old) => ({
          ...old,
          ...Object.fromEntries(found.map((each, n) => [key(recording.takes[n] as Cut), each])),
        })),
      )
      .catch((error: Error) => say(error.message));
  }, [recording, brief, say]);
  const moving = useRef<Promise<unknown>>(Promise.resolve());
  const move = (n: number, start_ms: number, end_ms: number) => {
    putTake(n, { start_ms: Math.max(0, start_ms), end_ms: Math.max(end_ms, start_ms + 5) });
    moving.current = moving.current
      .then(() =>
        api.measureTake(
          recording.audio,
          brief,
          Math.max(0, start_ms),
          Math.max(end_ms, start_ms + 5),
        ),
      )
      .then((found) => {
        remember([found]);
        putTake(n, { start_ms: found.start_ms, end_ms: found.end_ms });
      })
      .catch((error: Error) => say(error.message));
  };
  const hear = (n: number) => {
    const one = recording.takes[n];
    if (one)
      strike(
        {},
        newHit(state, controls, "texture", "take", sourceOf(recording, one, nameOf(one, n))),
      );
  };
  const kept = recording.takes.flatMap((one, n) => (one.verdict === "keep" ? [n] : []));
  const asHit = async () => {
    const found = kept.map((n) => numbers[key(recording.takes[n] as Cut)]);
    if (found.some((one) => !one)) return say("The takes are still being measured.");
    const groups = await api.groups(found.map((one) => (one as TakeNumbers).level_dbfs));
    const [first, ...rest] = groups.flatMap((group) =>
      group.takes.map((k) => ({ n: kept[k] as number, up_to: group.up_to })),
    );
    if (!first) return;
    const asTake = ({ n, up_to }: { n: number; up_to: number }) => {
      const one = recording.takes[n] as Cut;
      return {
        audio: recording.audio,
        name: nameOf(one, n),
        start_ms: one.start_ms,
        end_ms: one.end_ms,
        up_to,
      };
    };
    const lead = recording.takes[first.n] as Cut;
    const source = {
      ...sourceOf(recording, lead, nameOf(lead, first.n)),
      takes: rest.slice(0, 32).map(asTake),
    };
    const kind = JOB_KIND[(found[0] as TakeNumbers).job] ?? "texture";
    const made = newHit(state, controls, kind, nameOf(lead, first.n), source);
    change(withPart(made));
    choosePart(made.id);
    const softer = groups.length - 1;
    say(
      `A new hit of ${kept.length} takes: ${groups[0]?.takes.length} in turn${softer ? `, ${softer} softer` : ""}.`,
    );
  };
  const asLayers = () => {
    const hit = hitOf(state, id);
    const room = 8 - hit.layers.length;
    if (kept.length > room)
      return say(`The hit has room for ${room} more layers; ${kept.length} takes are kept.`);
    change(
      editHit(id, (old) => ({
        ...old,
        layers: [
          ...old.layers,
          ...kept.map((n) => {
            const one = recording.takes[n] as Cut;
            return newLayer(controls, sourceOf(recording, one, nameOf(one, n)), nameOf(one, n));
          }),
        ],
      })),
    );
    chooseLayer(hit.layers.length);
    say(
      `${kept.length === 1 ? "It is a layer" : "They are layers"} of the ${hit.name.toLowerCase()} now.`,
    );
  };
  const sheet = controls["recording"];
  if (!sheet) return null;
  return (
    <>
      <Wave recording={recording} chosen={chosen} onChoose={choose} onMove={move} />
      <div className="cut-wish">
        <Controls
          sheet={sheet}
          recipe={recording}
          onChange={(changes) => put((old) => ({ ...old, ...changes }))}
        />
        <Button size="sm" variant="primary" onClick={() => void cut()}>
          {recording.takes.length ? "Cut again" : "Cut"}
        </Button>
      </div>
      {recording.takes.length > 0 && (
        <>
          <div className="take-heads" aria-hidden>
            {HEADS.map((head) => (
              <span key={head}>{head}</span>
            ))}
          </div>
          <ol className="take-list" aria-label="Takes">
            {recording.takes.map((one, n) => {
              const seen = numbers[key(one)];
              return (
                <li
                  key={n}
                  className={`take-row verdict-${one.verdict}${n === chosen ? " at-hand" : ""}`}
                >
                  <button
                    type="button"
                    className="take-name"
                    aria-pressed={n === chosen}
                    aria-label={`Take ${n + 1}, ${VERDICTS[one.verdict]}${one.name && `: ${one.name}`}`}
                    ref={(element) => {
                      if (n === chosen && document.activeElement?.classList.contains("take-name"))
                        element?.focus();
                    }}
                    onFocus={() => choose(n)}
                    onClick={() => {
                      choose(n);
                      hear(n);
                    }}
                    onKeyDown={(event) => {
                      const act = {
                        ArrowDown: () => choose(Math.min(n + 1, recording.takes.length - 1)),
                        ArrowUp: () => choose(Math.max(n - 1, 0)),
                        "+": () => putTake(n, { verdict: "keep" }),
                        "=": () => putTake(n, { verdict: "keep" }),
                        "-": () => putTake(n, { verdict: "discard" }),
                      }[event.key];
                      if (!act) return;
                      event.preventDefault();
                      event.stopPropagation();
                      act();
                    }}
                  >
                    <b aria-hidden>{{ keep: "+", discard: "−", open: "·" }[one.verdict]}</b>{" "}
                    {nameOf(one, n)}
                  </button>
                  <Cell head={1}>{seen ? `${decibels(seen.level_dbfs)}FS` : "…"}</Cell>
                  <Cell head={2}>{millis(one.end_ms - one.start_ms)}</Cell>
                  <Cell head={3}>{seen ? (seen.note ?? "no note") : ""}</Cell>
                  <Cell head={4}>
                    {seen && maybe(seen.centroid_hz, (hz) => `${hz.toFixed(0)} Hz`)}
                  </Cell>
                  <Cell head={5} title="In the 50 ms before it, re its peak">
                    {seen && maybe(seen.noise_before_db, (db) => decibels(db, 0))}
                  </Cell>
                  <span title={seen?.reasons.join("; ")}>
                    <b>{seen?.job}</b> <small>{seen?.reasons[0]}</small>
                  </span>
                </li>
              );
            })}
          </ol>
          <div className="take-buttons">
            <Button
              size="sm"
              variant="outline-secondary"
              disabled={!take}
              onClick={() => putTake(chosen, { verdict: "keep" })}
            >
              keep
            </Button>
            <Button
              size="sm"
              variant="outline-secondary"
              disabled={!take}
              onClick={() => putTake(chosen, { verdict: "discard" })}
            >
              discard
            </Button>
            <input
              className="form-control form-control-sm"
              aria-label="Name for all kept takes"
              placeholder="name for all kept"
              maxLength={50}
              value={bulk}
              onChange={(event) => setBulk(event.target.value)}
            />
            <Button
              size="sm"
              variant="outline-secondary"
              disabled={!bulk.trim() || kept.length === 0}
              onClick={() => {
                put((old) => ({
                  ...old,
                  takes: old.takes.map((one, n) =>
                    one.verdict === "keep"
                      ? { ...one, name: `${bulk.trim()} ${kept.indexOf(n) + 1}` }
                      : one,
                  ),
                }));
                setBulk("");
              }}
            >
              name
            </Button>
            <span className="spring" />
            <Button
              size="sm"
              variant="primary"
              disabled={kept.length === 0}
              onClick={() => void asHit()}
            >
              New hit of {kept.length} kept
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              disabled={kept.length === 0}
              onClick={asLayers}
            >
              As layers of {hitOf(state, id).name}
            </Button>
          </div>
        </>
      )}
    </>
  );
}
