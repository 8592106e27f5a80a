import { FileLoop } from "../../bench/FileLoop";
import { Controls } from "../../bench/Controls";
import { useDesk } from "../../track/context";
import type { Voice } from "../../api/client";
import { loopChanges, type Swung, swingChanges } from "../../track/swing";
import { editBass } from "../../track/lines";
import { editVoice, voiceOf } from "../../track/parts";

/** How the bass sounds, or the level of a loop of one’s own. */
export function SoundTab() {
  const { shown, state, change, controls, lineId } = useDesk();
  const { bass, name } = voiceOf(shown, lineId);
  const sheet =
    controls[
      { made: "bass", played: "played", imported: "imported_bass", rumble: "rumble" }[bass.kind]
    ];
  const bars = state.brief.chord_roots.length;
  if (!sheet) return null;
  if (bass.kind === "played")
    return (
      <>
        <p className="lead">
          {bass.hit.name} plays the line, moved to each note by its measured pitch. It is kept as it
          was when chosen: shape it in Hits, then choose it again.
        </p>
        <Controls
          sheet={sheet}
          recipe={bass.recipe}
          onChange={(changes) => change(editBass(lineId, swingChanges(changes)))}
        />
      </>
    );
  if (bass.kind === "made")
    return (
      <Controls
        sheet={sheet}
        recipe={bass.recipe}
        onChange={(changes) => change(editBass(lineId, swingChanges(changes)))}
      />
    );
  return (
    <>
      <p className="lead">
        {bass.kind === "rumble"
          ? "Made from the kick as it is now, and changes with it. Its level is set by measurement; the ducking keeps it out of the kick’s way."
          : `Your loop is ${bass.fit === "as it is" ? `taken to be at ${state.brief.bpm} BPM` : `fitted to ${state.brief.bpm} BPM`}, and repeated or cut to ${bars} ${bars === 1 ? "bar" : "bars"}. A stereo file is heard as its mono sum: the low end is mono.`}
      </p>
      <Controls
        sheet={sheet}
        recipe={bass}
        onChange={(changes) => {
          const all = loopChanges(bass as Swung, changes as Swung, state.brief.bpm);
          change(editVoice(lineId, (old) => ({ ...old, bass: { ...old.bass, ...all } }) as Voice));
        }}
      />
      {bass.kind === "imported" && (
        <FileLoop
          part={lineId}
          name={name}
          fit={bass.fit}
          silent={bass.silent}
          onSilent={(silent) =>
            change(editVoice(lineId, (old) => ({ ...old, bass: { ...old.bass, silent } }) as Voice))
          }
        />
      )}
    </>
  );
}
