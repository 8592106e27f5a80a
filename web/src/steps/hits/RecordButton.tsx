import { useEffect, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { Recorder, type Level } from "../../audio/recorder";
import { useDesk } from "../../track/context";

const FLOOR_DB = -60;

/** Starts and ends a recording; a level meter, and a warning once it clips. */
export function RecordButton({ onRecorded }: { onRecorded: (file: File) => void }) {
  const { say } = useDesk();
  const [level, setLevel] = useState<Level | null>(null);
  const recorder = useRef<Recorder | null>(null);
  const running = level !== null;
  const start = () => {
    const next = (recorder.current = new Recorder(setLevel));
    next.start().catch((error: Error) => {
      recorder.current = null;
      say(error.message);
    });
  };
  const stop = () => {
    void recorder.current?.stop().then((blob) => {
      const now = new Date().toTimeString().slice(0, 8).replaceAll(":", "-");
      onRecorded(new File([blob], `recording ${now}.wav`));
    });
    recorder.current = null;
    setLevel(null);
  };
  useEffect(
    () => () => {
      void recorder.current?.stop();
    },
    [],
  );
  const db = level ? 20 * Math.log10(Math.max(level.peak, 1e-6)) : FLOOR_DB;
  return (
    <span className="record">
      <Button
        size="sm"
        variant={running ? "danger" : "primary"}
        aria-pressed={running}
        onClick={running ? stop : start}
      >
        {running ? "Stop recording" : "Record"}
      </Button>
      {level && (
        <>
          <meter
            aria-label="Level of the microphone"
            min={FLOOR_DB}
            max={0}
            high={-6}
            value={Math.max(FLOOR_DB, db)}
          />
          <span className={level.clipped ? "clipped" : "why"}>
            {level.seconds.toFixed(1)} s {level.clipped && "It clipped: turn the input down."}
          </span>
        </>
      )}
    </span>
  );
}
