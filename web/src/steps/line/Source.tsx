import { Button, ButtonGroup } from "react-bootstrap";
import { SoundFile } from "../../bench/SoundFile";
import { useDesk } from "../../track/context";

interface Props {
  imported: { name: string } | null;
  onMade: () => void;
}

/** The bass: made here, or a file of one's own. */
export function Source({ imported, onMade }: Props) {
  const { bring } = useDesk();
  return (
    <div className="source">
      <ButtonGroup size="sm" aria-label="Where the bass comes from">
        <Button
          variant={imported ? "outline-secondary" : "secondary"}
          aria-pressed={!imported}
          onClick={onMade}
        >
          Made here
        </Button>
        <SoundFile
          label="Sound file for the bass"
          variant={imported ? "secondary" : "outline-secondary"}
          aria-pressed={imported !== null}
          onFile={(file) => bring(file, "bass")}
        >
          Your file…
        </SoundFile>
      </ButtonGroup>
      <span className="source-name">
        {imported ? imported.name : `or drop a WAV, FLAC or AIFF here`}
      </span>
    </div>
  );
}
