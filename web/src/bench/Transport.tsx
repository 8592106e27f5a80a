import { Button, ButtonGroup, ToggleButton } from "react-bootstrap";
import type { Hearing } from "../audio/player";
import { decibels } from "./scale";

interface Props {
  playing: boolean;
  onPlay: () => void;
  onOnce: () => void;
  once: string;
  hearing: Hearing;
  onHearing: (changes: Partial<Hearing>) => void;
  comparable: boolean;
}

const PARTS: [Hearing["part"], string][] = [
  ["kick", "Kick"],
  ["bass", "Bass"],
  ["both", "Both"],
  ["all", "All"],
];

const SWITCHES: ["mono" | "lowOnly", string, string, string][] = [
  ["mono", "mono", "Mono", "Both sides as one, as most clubs play them (M)"],
  ["lowOnly", "low-only", "Low band only", "Below 150 Hz alone (L)"],
];

/** Play, what is heard, before or after, the low band alone, and how loud. */
export function Transport({
  playing,
  onPlay,
  onOnce,
  once,
  hearing,
  onHearing,
  comparable,
}: Props) {
  return (
    <div className="transport" role="group" aria-label="Listening">
      <Button className="play" aria-pressed={playing} onClick={onPlay}>
        {playing ? "Stop" : "Play"}
      </Button>
      <Button size="sm" variant="outline-secondary" title="One hit by itself (K)" onClick={onOnce}>
        {once} once
      </Button>
      <ButtonGroup size="sm" aria-label="What is heard">
        {PARTS.map(([part, name]) => (
          <ToggleButton
            key={part}
            id={`hear-${part}`}
            type="radio"
            name="hear"
            variant="outline-secondary"
            value={part}
            checked={hearing.part === part}
            onChange={() => onHearing({ part })}
          >
            {name}
          </ToggleButton>
        ))}
      </ButtonGroup>
      <ButtonGroup size="sm" aria-label="Before or after the ducking, equally loud">
        {[false, true].map((ducked) => (
          <ToggleButton
            key={String(ducked)}
            id={`hear-${ducked ? "after" : "before"}`}
            type="radio"
            name="side"
            variant="outline-secondary"
            value={String(ducked)}
            disabled={!comparable}
            checked={hearing.ducked === ducked}
            onChange={() => onHearing({ ducked })}
          >
            {ducked ? "Ducked" : "Before"}
          </ToggleButton>
        ))}
      </ButtonGroup>
      <span className="match" title="Both sides are brought to the loudness of the quieter one">
        level match {decibels(hearing.matchDb)}
      </span>
      {SWITCHES.map(([name, id, label, help]) => (
        <ToggleButton
          key={id}
          id={id}
          type="checkbox"
          size="sm"
          variant="outline-secondary"
          value="1"
          title={help}
          checked={hearing[name]}
          onChange={() => onHearing({ [name]: !hearing[name] })}
        >
          {label}
        </ToggleButton>
      ))}
      <label className="volume">
        Volume
        <input
          type="range"
          min={-48}
          max={0}
          step={1}
          value={hearing.volumeDb}
          aria-valuetext={decibels(hearing.volumeDb, 0)}
          onChange={(event) => onHearing({ volumeDb: Number(event.target.value) })}
        />
        <span>{decibels(hearing.volumeDb, 0)}</span>
      </label>
    </div>
  );
}
