import { useQuery } from "@tanstack/react-query";
import { api, type Voice } from "../../api/client";
import { ByHand } from "../../bench/hand/ByHand";
import { LoopEditor } from "../../bench/chain/LoopEditor";
import { Tabs } from "../../bench/Tabs";
import { useTab } from "../../bench/useAddress";
import { useDesk } from "../../track/context";
import { withRumble, withSound } from "../../track/lines";
import { MidiTab } from "./MidiTab";
import { NotesTab } from "./NotesTab";
import { SoundTab } from "./SoundTab";
import { Source } from "./Source";
import "./line.css";

const TABS = [
  ["notes", "Notes"],
  ["sound", "Sound"],
  ["hand", "By hand"],
  ["loop", "Loop"],
  ["midi", "MIDI"],
] as const;

const TAB_IDS = TABS.map(([id]) => id);

/** What the lines and the hits play, how the line at hand sounds, and MIDI files. */
export function LineEditor({ voice }: { voice: Voice }) {
  const { change, controls } = useDesk();
  const [tab, setTab] = useTab(TAB_IDS);
  const patterns = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const fresh = patterns.data?.["off-beats"] ?? [];
  return (
    <>
      <div className="line-head">
        <Tabs label="What is done to the line" name="line" tabs={TABS} at={tab} onChoose={setTab} />
        <Source
          bass={voice.bass}
          onMade={() =>
            voice.bass.kind !== "made" && change(withSound(voice.id, controls, null, fresh))
          }
          onRumble={() => voice.bass.kind !== "rumble" && change(withRumble(voice.id, controls))}
          onPlayed={(hit) => change(withSound(voice.id, controls, hit, fresh))}
        />
      </div>
      {tab === "notes" && <NotesTab named={patterns.data ?? {}} />}
      {tab === "sound" && <SoundTab />}
      {tab === "hand" && <ByHand key={voice.id} part={voice} />}
      {tab === "loop" && <LoopEditor part={voice} />}
      {tab === "midi" && <MidiTab />}
    </>
  );
}
