import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, isTooLong, type Brief, type DemoName, type SavedTrack } from "../api/client";
import { put, SOUND_FILES } from "../track/brought";
import { kickOf, voicesOf } from "../track/parts";

const DEMOS: [DemoName, string][] = [
  ["Cobnut Rain", "a full kick off its key, over a bass in the same octave"],
  ["Green Husk", "a short kick over an 808 that owns the sub; drums to tune"],
  ["Stonefruit", "a long kick over held notes, with an intro of its own"],
];

/** What is too long is cut where it is seen. */
function toBeCut(error: Error): never {
  if (isTooLong(error))
    throw new Error(
      `${error.message} Start without it and drop it on the track, to cut a stretch.`,
    );
  throw error;
}

/** A new track whose kick and bass are files. */
async function fromFiles(
  name: string,
  brief: Pick<Brief, "bpm" | "tonic" | "mode"> | undefined,
  kick: File | null,
  bass: File | null,
): Promise<SavedTrack> {
  const controls = kick || bass ? await api.controls() : {};
  const read = await Promise.all(
    [kick, bass].map((file) => file && api.importAudio(file).catch(toBeCut)),
  );
  const track = await api.create(name, brief);
  const place = {
    state: track.state,
    hitId: kickOf(track.state).id,
    layer: 0,
    lineId: voicesOf(track.state)[0]?.id ?? "",
  };
  const state = (["hit", "bass"] as const).reduce((now, as, n) => {
    const file = read[n];
    return file ? put(as, file, controls, place).edit(now) : now;
  }, track.state);
  return state === track.state ? track : api.save(track.id, track.section, state, track.revision);
}

/** Where a track begins: from a key and a tempo, from a kick and a bass, from an invented one, from a file. */
export function Begin({
  onBegin,
}: {
  onBegin: (making: Promise<SavedTrack>, step: string) => void;
}) {
  const controls = useQuery({ queryKey: ["controls"], queryFn: api.controls, staleTime: Infinity });
  const [name, setName] = useState("");
  const [kick, setKick] = useState<File | null>(null);
  const [bass, setBass] = useState<File | null>(null);
  const [wish, setWish] = useState<Partial<Brief>>({});
  const sheet = controls.data?.["brief"];
  const choice = (field: string) => sheet?.choices.find((one) => one.name === field);
  const tempo = sheet?.controls.find((one) => one.name === "bpm");
  const tonic = wish.tonic ?? (choice("tonic")?.default as Brief["tonic"]);
  const mode = wish.mode ?? (choice("mode")?.default as Brief["mode"]);
  const bpm = wish.bpm ?? tempo?.default ?? NaN;
  // Until it is known what a tempo may be, the usual one is begun with.
  const right = tempo === undefined || (bpm >= tempo.low && bpm <= tempo.high);
  const file = (label: string, chosen: File | null, choose: (file: File | null) => void) => (
    <label className="btn btn-sm btn-outline-secondary">
      {chosen ? chosen.name : `${label} from a file…`}
      <input
        type="file"
        className="visually-hidden"
        aria-label={`${label} from a file`}
        accept={SOUND_FILES}
        onChange={(event) => choose(event.target.files?.[0] ?? null)}
      />
    </label>
  );
  return (
    <div className="begin">
      <h2>Begin</h2>
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() && right)
            onBegin(
              fromFiles(name, sheet ? { bpm, tonic, mode } : undefined, kick, bass),
              kick || bass ? "hits" : "brief",
            );
        }}
      >
        <Form.Control
          autoFocus
          aria-label="Name of the track"
          placeholder="Name of the track"
          value={name}
          maxLength={100}
          onChange={(event) => setName(event.target.value)}
        />
        <div className="begin-row">
          {(["tonic", "mode"] as const).map((field) => (
            <Form.Select
              key={field}
              size="sm"
              aria-label={field}
              value={field === "tonic" ? tonic : mode}
              onChange={(event) => setWish({ ...wish, [field]: event.target.value })}
            >
              {choice(field)?.options.map((option) => (
                <option key={option}>{option}</option>
              ))}
            </Form.Select>
          ))}
          <Form.Control
            size="sm"
            type="number"
            aria-label="Tempo in BPM"
            min={tempo?.low}
            max={tempo?.high}
            step="any"
            isInvalid={!right}
            value={Number.isNaN(bpm) ? "" : bpm}
            onChange={(event) => setWish({ ...wish, bpm: Number(event.target.value || NaN) })}
          />
          <span>BPM</span>
        </div>
        <div className="begin-row">
          {file("Kick", kick, setKick)}
          {file("Bass", bass, setBass)}
        </div>
        <Button type="submit" disabled={!name.trim() || !right}>
          Start a track
        </Button>
        <p className="why">Without files it opens with a made kick and bass, to change later.</p>
      </Form>
      <h2>Look around first</h2>
      <ul className="demos">
        {DEMOS.map(([demo, what]) => (
          <li key={demo}>
            <Button
              size="sm"
              variant="outline-secondary"
              onClick={() => onBegin(api.beginFromDemo(demo), "hits")}
            >
              {demo}
            </Button>
            <span className="why">{what}</span>
          </li>
        ))}
      </ul>
      <label className="btn btn-sm btn-outline-secondary">
        Open a track file…
        <input
          type="file"
          className="visually-hidden"
          aria-label="Track file"
          accept=".zip"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) onBegin(api.openParcel(chosen), "hits");
          }}
        />
      </label>
    </div>
  );
}
