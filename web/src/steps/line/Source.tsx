import { Button, ButtonGroup } from "react-bootstrap";
import type { Hit, Voice } from "../../api/client";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";
import { hitsOf } from "../../track/parts";

interface Props {
  bass: Voice["bass"];
  onMade: () => void;
  onRumble: () => void;
  onPlayed: (hit: Hit) => void;
}

/** What sounds the line: made here, a hit of the track, or a file of one's own. */
export function Source({ bass, onMade, onRumble, onPlayed }: Props) {
  const { bring, shown } = useDesk();
  const hits = hitsOf(shown);
  return (
    <div className="source">
      <ButtonGroup size="sm" aria-label="Where the bass comes from">
        <Button
          variant={bass.kind === "made" ? "secondary" : "outline-secondary"}
          aria-pressed={bass.kind === "made"}
          onClick={onMade}
        >
          Made here
        </Button>
        <Button
          variant={bass.kind === "rumble" ? "secondary" : "outline-secondary"}
          aria-pressed={bass.kind === "rumble"}
          title="Made from the kick: repeats, a room, drive, and only its low end"
          onClick={onRumble}
        >
          Rumble
        </Button>
        <SoundFile
          label="Sound file for the bass"
          title="A loop of your own: choose it, or drop it on the page"
          variant={bass.kind === "imported" ? "secondary" : "outline-secondary"}
          aria-pressed={bass.kind === "imported"}
          onFile={(file) => bring(file, "bass")}
        >
          Your file…
        </SoundFile>
      </ButtonGroup>
      <select
        className="form-select form-select-sm played-by"
        aria-label="Played by a hit"
        value=""
        onChange={(event) => {
          const hit = hits.find(({ id }) => id === event.target.value);
          if (hit) onPlayed(hit);
        }}
      >
        <option value="">
          {bass.kind === "played" ? `played by ${bass.hit.name}` : "or played by a hit…"}
        </option>
        {hits.map((hit) => (
          <option key={hit.id} value={hit.id}>
            {hit.name}
          </option>
        ))}
      </select>
      {bass.kind === "imported" && <span className="source-name">{bass.name}</span>}
    </div>
  );
}
