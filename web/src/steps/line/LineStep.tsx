import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api } from "../../api/client";
import { MOST_PARTS } from "../../api/limits";
import { Differs } from "../../bench/Differs";
import { LoopEditor } from "../../bench/chain/LoopEditor";
import { Tabs } from "../../bench/Tabs";
import { useDesk } from "../../track/context";
import { addLine, recipeOf, withRumble, withSound } from "../../track/lines";
import { newId, voiceOf, voicesOf, withoutPart } from "../../track/parts";
import { MidiTab } from "./MidiTab";
import { NotesTab } from "./NotesTab";
import { SoundTab } from "./SoundTab";
import { Source } from "./Source";
import { shownName } from "./VoiceRow";

const TABS = [
  ["notes", "Notes"],
  ["sound", "Sound"],
  ["loop", "Loop"],
  ["midi", "MIDI"],
] as const;

/** What the bass and the hits play, how the bass sounds, and MIDI files. */
export function LineStep() {
  const { change, chooseLine, controls, lineId, say, shown } = useDesk();
  const [tab, setTab] = useState<(typeof TABS)[number][0]>("notes");
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const voices = voicesOf(shown);
  const voice = voiceOf(shown, lineId);
  const fresh = patterns.data?.["off-beats"] ?? [];
  return (
    <div className="step-body line">
      <div className="line-head">
        <Tabs label="What is done to the line" name="line" tabs={TABS} at={tab} onChoose={setTab} />
        <select
          className="form-select form-select-sm line-choice"
          aria-label="Line in hand"
          value={lineId}
          onChange={(event) => {
            if (event.target.value === "add") {
              const id = newId();
              change(addLine(id, controls, recipeOf(voices[0])?.pattern ?? fresh));
              chooseLine(id);
            } else chooseLine(event.target.value);
          }}
        >
          {voices.map((one) => (
            <option key={one.id} value={one.id}>
              {shownName(one)}
            </option>
          ))}
          {shown.parts.length < MOST_PARTS && <option value="add">Add a line…</option>}
        </select>
        {lineId !== voices[0]?.id && (
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() => {
              change(withoutPart(lineId));
              chooseLine("");
              say(`${shownName(voice)} is gone. Undo brings it back.`);
            }}
          >
            Remove
          </Button>
        )}
        <Source
          bass={voice.bass}
          onMade={() =>
            voice.bass.kind !== "made" && change(withSound(lineId, controls, null, fresh))
          }
          onRumble={() => voice.bass.kind !== "rumble" && change(withRumble(lineId, controls))}
          onPlayed={(hit) => change(withSound(lineId, controls, hit, fresh))}
        />
      </div>
      <Differs of={voice.id} />
      {tab === "notes" && <NotesTab named={patterns.data ?? {}} />}
      {tab === "sound" && <SoundTab />}
      {tab === "loop" && <LoopEditor part={voice} />}
      {tab === "midi" && <MidiTab />}
    </div>
  );
}
