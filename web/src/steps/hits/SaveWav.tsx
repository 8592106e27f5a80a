import { useCallback, useEffect, useRef, type DragEvent } from "react";
import { Button } from "react-bootstrap";
import { api, type Hit } from "../../api/client";
import { save } from "../../bench/save";
import { useDesk } from "../../track/context";

/** The hit by itself as a file: saved with a click, or dragged to the desktop or into the arranging program. */
export function SaveWav({ hit }: { hit: Hit }) {
  const { shown, say } = useDesk();
  const name = `${hit.name}.wav`;
  const ready = useRef<{ of: Hit; url: string } | null>(null);
  const forget = useCallback(() => {
    if (ready.current) URL.revokeObjectURL(ready.current.url);
    ready.current = null;
  }, []);
  useEffect(() => forget, [forget]);
  const rendered = () =>
    api.hit(shown.brief, hit).then((wav) => new Blob([wav], { type: "audio/wav" }));
  /** A drag takes what is there when it begins. */
  const prepare = () => {
    if (ready.current?.of === hit) return;
    void rendered()
      .then((wav) => {
        forget();
        ready.current = { of: hit, url: URL.createObjectURL(wav) };
      })
      .catch(forget);
  };
  const drag = (event: DragEvent) => {
    if (ready.current?.of !== hit) {
      event.preventDefault();
      say(`${hit.name} is still being rendered: drag it again.`);
      return;
    }
    event.dataTransfer.effectAllowed = "copy";
    // A file's name goes up to the first colon.
    const plain = name.replaceAll(/[:/\\]/g, "-");
    event.dataTransfer.setData("DownloadURL", `audio/wav:${plain}:${ready.current.url}`);
  };
  return (
    <Button
      size="sm"
      variant="outline-secondary"
      aria-label="Save WAV"
      title="Save the hit by itself, as it is struck in full, as a WAV file; or drag it out of the page"
      draggable
      onPointerEnter={prepare}
      onFocus={prepare}
      onDragStart={drag}
      onClick={() =>
        void rendered()
          .then((wav) => save(wav, name))
          .catch((error: Error) => say(error.message))
      }
    >
      WAV
    </Button>
  );
}
