import { useRef } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { useDesk } from "../track/context";

interface Props {
  as: "kick" | "bass";
  imported: { name: string } | null;
  onMade: () => void;
}

/** Made here, or a file of one's own. */
export function Source({ as, imported, onMade }: Props) {
  const { bring } = useDesk();
  const file = useRef<HTMLInputElement>(null);
  return (
    <div className="source">
      <ButtonGroup size="sm" aria-label={`Where the ${as} comes from`}>
        <Button
          variant={imported ? "outline-secondary" : "secondary"}
          aria-pressed={!imported}
          onClick={onMade}
        >
          Made here
        </Button>
        <Button
          variant={imported ? "secondary" : "outline-secondary"}
          aria-pressed={imported !== null}
          onClick={() => file.current?.click()}
        >
          Your file…
        </Button>
      </ButtonGroup>
      <input
        ref={file}
        type="file"
        hidden
        aria-label={`Sound file for the ${as}`}
        accept=".wav,.flac,.aif,.aiff,audio/wav,audio/flac,audio/aiff"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) bring(chosen, as);
          event.target.value = "";
        }}
      />
      <span className="source-name">
        {imported ? imported.name : `or drop a WAV, FLAC or AIFF here`}
      </span>
    </div>
  );
}
