import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { Tabs } from "../../bench/Tabs";
import { useDesk } from "../../track/context";
import { withVoice } from "../../track/edits";
import { MidiTab } from "./MidiTab";
import { NotesTab } from "./NotesTab";
import { SoundTab } from "./SoundTab";
import { Source } from "./Source";

const TABS = [
  ["notes", "Notes"],
  ["sound", "Sound"],
  ["midi", "MIDI"],
] as const;

/** What the bass and the hits play, how the bass sounds, and MIDI files. */
export function LineStep() {
  const { change, controls, shown } = useDesk();
  const [tab, setTab] = useState<(typeof TABS)[number][0]>("notes");
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const bass = shown.bass;
  const fresh = patterns.data?.["off-beats"] ?? [];
  return (
    <div className="step-body line">
      <div className="line-head">
        <Tabs label="What is done to the line" name="line" tabs={TABS} at={tab} onChoose={setTab} />
        <Source
          bass={bass}
          onMade={() =>
            bass.kind !== "made" && change((old) => withVoice(old, controls, null, fresh))
          }
          onPlayed={(hit) => change((old) => withVoice(old, controls, hit, fresh))}
        />
      </div>
      {tab === "notes" && <NotesTab named={patterns.data ?? {}} />}
      {tab === "sound" && <SoundTab />}
      {tab === "midi" && <MidiTab />}
    </div>
  );
}
