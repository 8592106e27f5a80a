import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Voice } from "../../api/client";
import { Tabs } from "../../bench/Tabs";
import { useDesk } from "../../track/context";
import {
  MOST_LINES,
  addLine,
  recipeOf,
  voicesOf,
  withRumble,
  withSound,
  withoutLine,
} from "../../track/lines";
import { MidiTab } from "./MidiTab";
import { NotesTab } from "./NotesTab";
import { SoundTab } from "./SoundTab";
import { Source } from "./Source";
import { shownName } from "./VoiceRow";

const TABS = [
  ["notes", "Notes"],
  ["sound", "Sound"],
  ["midi", "MIDI"],
] as const;

/** What the bass and the hits play, how the bass sounds, and MIDI files. */
export function LineStep() {
  const { change, chooseLine, controls, lineIndex, say, shown } = useDesk();
  const [tab, setTab] = useState<(typeof TABS)[number][0]>("notes");
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const voices = voicesOf(shown);
  const voice = voices[lineIndex] as Voice;
  const fresh = patterns.data?.["off-beats"] ?? [];
  return (
    <div className="step-body line">
      <div className="line-head">
        <Tabs label="What is done to the line" name="line" tabs={TABS} at={tab} onChoose={setTab} />
        <select
          className="form-select form-select-sm line-choice"
          aria-label="Line in hand"
          value={lineIndex}
          onChange={(event) => {
            if (event.target.value === "add") {
              change(addLine(controls, recipeOf(voices[0]) ? recipeOf(voices[0])!.pattern : fresh));
              chooseLine(voices.length);
            } else chooseLine(Number(event.target.value));
          }}
        >
          {voices.map((one, n) => (
            <option key={n} value={n}>
              {shownName(one)}
            </option>
          ))}
          {voices.length < MOST_LINES && <option value="add">Add a line…</option>}
        </select>
        {lineIndex > 0 && (
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() => {
              change(withoutLine(lineIndex));
              chooseLine(0);
              say(`${shownName(voice)} is gone. Undo brings it back.`);
            }}
          >
            Remove
          </Button>
        )}
        <Source
          bass={voice.bass}
          onMade={() =>
            voice.bass.kind !== "made" && change(withSound(lineIndex, controls, null, fresh))
          }
          onRumble={() => voice.bass.kind !== "rumble" && change(withRumble(lineIndex, controls))}
          onPlayed={(hit) => change(withSound(lineIndex, controls, hit, fresh))}
        />
      </div>
      {tab === "notes" && <NotesTab named={patterns.data ?? {}} />}
      {tab === "sound" && <SoundTab />}
      {tab === "midi" && <MidiTab />}
    </div>
  );
}
