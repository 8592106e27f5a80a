import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ButtonGroup, ToggleButton } from "react-bootstrap";
import { api } from "../../api/client";
import { useDesk } from "../../track/context";
import { withVoice } from "../../track/edits";
import { MidiTab } from "./MidiTab";
import { NotesTab } from "./NotesTab";
import { SoundTab } from "./SoundTab";
import { Source } from "./Source";

const TABS = ["Notes", "Sound", "MIDI"] as const;

/** What the bass and the hits play, how the bass sounds, and MIDI files. */
export function LineStep() {
  const { change, controls, shown } = useDesk();
  const [tab, setTab] = useState<(typeof TABS)[number]>("Notes");
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const bass = shown.bass;
  const fresh = patterns.data?.["off-beats"] ?? [];
  return (
    <div className="step-body line">
      <div className="line-head">
        <ButtonGroup size="sm" aria-label="What is done to the line">
          {TABS.map((name) => (
            <ToggleButton
              key={name}
              id={`line-${name}`}
              type="radio"
              name="line-tab"
              variant="outline-secondary"
              value={name}
              checked={tab === name}
              onChange={() => setTab(name)}
            >
              {name}
            </ToggleButton>
          ))}
        </ButtonGroup>
        <Source
          bass={bass}
          onMade={() =>
            bass.kind !== "made" && change((old) => withVoice(old, controls, null, fresh))
          }
          onPlayed={(hit) => change((old) => withVoice(old, controls, hit, fresh))}
        />
      </div>
      {tab === "Notes" && <NotesTab named={patterns.data ?? {}} />}
      {tab === "Sound" && <SoundTab />}
      {tab === "MIDI" && <MidiTab />}
    </div>
  );
}
