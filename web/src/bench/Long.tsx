import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { api, type ImportedAudio } from "../api/client";
import { useDesk } from "../track/context";
import { Handle } from "./Handle";
import "./long.css";
import { outlineOf } from "./scale";
import { Typed } from "./Typed";
import { useSize } from "./useSize";

interface Props {
  file: File;
  why: string;
  onCut: (stretch: ImportedAudio) => void;
  onLeave: () => void;
}

/** Under which a long sound is struck, so that it can be let go. */
const KEY = "stretch";
const seconds = (value: number) => `${value.toFixed(2)} s`;

/** A file longer than what can be used: seen as a whole, and a stretch of it heard and taken. */
export function Long({ file, why, onCut, onLeave }: Props) {
  const { listening, say, warn } = useDesk();
  const { ref, width, height } = useSize<SVGSVGElement>();
  const [name] = useState(() => `${file.name} ${file.size} ${file.lastModified}`);
  const { data, error } = useQuery({
    queryKey: ["outline", name],
    queryFn: () => api.outline(file),
    retry: false,
  });
  const { player } = listening;
  // What is left is not heard on.
  useEffect(() => () => player.release(KEY), [player]);
  const [wish, setWish] = useState<[number, number] | null>(null);
  const [busy, setBusy] = useState(false);
  const [heard, setHeard] = useState(false);
  const ends = useRef(0);
  const whole = data?.seconds ?? 1;
  const most = data?.most_s ?? 1;
  const least = data?.least_s ?? 0;
  const [from, to] = wish ?? [0, Math.min(whole, most)];
  /** What is moved keeps the stretch inside the file and as short as can be used. */
  const move = (start: number, end: number, moved: "start" | "end") => {
    const first = Math.min(Math.max(0, start), whole - least);
    const last = Math.min(Math.max(end, first + least), whole);
    setWish(
      moved === "start"
        ? [first, Math.min(last, first + most)]
        : [Math.max(first, last - most), last],
    );
  };
  const failed = (problem: Error) => say(problem.message);
  const still = () => {
    window.clearTimeout(ends.current);
    player.release(KEY);
    setHeard(false);
  };
  const hear = () => {
    if (heard) return still();
    warn();
    api
      .stretch(file, from, to - from)
      .then((wav) => player.read(wav))
      .then((channels) => {
        player.strike(channels, KEY);
        setHeard(true);
        ends.current = window.setTimeout(() => setHeard(false), 1000 * (to - from));
      })
      .catch(failed);
  };
  const take = () => {
    if (busy) return;
    setBusy(true);
    still();
    api
      .cutFile(file, from, to - from)
      .then(onCut)
      .catch(failed)
      .finally(() => setBusy(false));
  };
  const perS = width / whole;
  const middle = height / 2;
  const y = (value: number) => middle - value * (middle - 2);
  const end = (label: string, at: number, onMove: (at: number) => void, top: boolean) => (
    <Handle
      x={at * perS}
      y={top ? 10 : height - 10}
      label={label}
      value={at}
      low={0}
      high={whole}
      text={seconds(at)}
      onDrag={(dx) => onMove(at + dx / perS)}
      onNudge={(right) => onMove(at + right * 0.1)}
    />
  );
  return (
    <section className="several long" aria-label={`A stretch of ${file.name}`}>
      <p role="status">
        {error ? error.message : data ? `${why} Choose a stretch of it.` : `Reading ${file.name}…`}
      </p>
      <svg ref={ref} className="wave">
        {data && (
          <>
            <rect className="stretch" x={from * perS} width={(to - from) * perS} height={height} />
            <path className="outline" d={outlineOf(data, width / data.highs.length, y)} />
            {end("Start of the stretch", from, (at) => move(at, to, "start"), false)}
            {end("End of the stretch", to, (at) => move(from, at, "end"), true)}
          </>
        )}
      </svg>
      {data && (
        <>
          <Typed
            label="start"
            of="Stretch"
            unit="s"
            digits={2}
            value={from}
            low={0}
            high={whole - least}
            onType={(at) => move(at, at + (to - from), "start")}
          />
          <Typed
            label="length"
            of="Stretch"
            unit="s"
            digits={2}
            value={to - from}
            low={least}
            high={Math.min(most, whole - from)}
            onType={(length) => move(from, from + length, "start")}
          />
          <Button size="sm" variant="outline-secondary" onClick={hear}>
            {heard ? "Stop" : "Hear"}
          </Button>
          <Button size="sm" aria-disabled={busy} onClick={take}>
            Take it
          </Button>
        </>
      )}
      <Button size="sm" variant="outline-secondary" onClick={onLeave}>
        Leave it
      </Button>
    </section>
  );
}
