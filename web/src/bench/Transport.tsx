import { Button, ButtonGroup } from "react-bootstrap";
import { ToggleButton } from "./ToggleButton";
import type { Band, Hearing, Player } from "../audio/player";
import { useDesk } from "../track/context";
import { nameOf, partOf } from "../track/parts";
import { OutputMeter } from "./OutputMeter";
import { decibels } from "./scale";
import { useShortcuts } from "./useShortcuts";

interface Props {
  player: Player;
  playing: boolean;
  onPlay: () => void;
  onOnce: () => void;
  once: string;
  hearing: Hearing;
  onHearing: (changes: Partial<Hearing>) => void;
  comparable: boolean;
}

/** What H goes on to. */
const NEXT = { kick: "bass", bass: "both", both: "all", all: "kick" } as const;

const PARTS: [Hearing["part"], string][] = [
  ["kick", "Kick"],
  ["bass", "Bass"],
  ["both", "Both"],
  ["all", "All"],
];

const BAND_NAMES: [Exclude<Band, "all">, string, string][] = [
  ["low", "Low", "Below 150 Hz alone (L)"],
  ["mid", "Mid", "150 to 2000 Hz alone"],
  ["top", "Top", "Above 2000 Hz alone"],
];

/** Play, what is heard, before or after, the low band alone, and how loud. */
export function Transport(props: Props) {
  const { player, playing, onPlay, onOnce, once, hearing, onHearing, comparable } = props;
  const { shown, partId, inRoom, compare } = useDesk();
  const { band, solo } = hearing;
  const only = (wish: Band) => onHearing({ band: band === wish ? "all" : wish });
  useShortcuts({
    h: () => onHearing({ part: NEXT[hearing.part], solo: null }),
    b: () => onHearing({ ducked: !hearing.ducked }),
    l: () => only("low"),
    m: () => onHearing({ mono: !hearing.mono }),
    s: () => onHearing({ solo: solo === partId ? null : partId }),
  });
  return (
    <div className="transport" role="group" aria-label="Listening">
      <Button className="play" aria-pressed={playing} onClick={onPlay}>
        {playing ? "Stop" : "Play"}
      </Button>
      <Button size="sm" variant="outline-secondary" title="One hit by itself (K)" onClick={onOnce}>
        Hear {once}
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
            checked={solo === null && hearing.part === part}
            onChange={() => onHearing({ part, solo: null })}
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
      {!compare.blind && (
        <span className="match" title="Both sides are brought to the loudness of the quieter one">
          match {decibels(hearing.matchDb)}
        </span>
      )}
      <ToggleButton
        id="mono"
        type="checkbox"
        size="sm"
        variant="outline-secondary"
        value="1"
        title="Both sides as one, as most clubs play them (M)"
        checked={hearing.mono}
        onChange={() => onHearing({ mono: !hearing.mono })}
      >
        Mono
      </ToggleButton>
      <ButtonGroup size="sm" aria-label="A band alone">
        {BAND_NAMES.map(([name, label, help]) => (
          <ToggleButton
            key={name}
            id={`band-${name}`}
            type="checkbox"
            variant="outline-secondary"
            value={name}
            title={help}
            checked={band === name}
            onChange={() => only(name)}
          >
            {label}
          </ToggleButton>
        ))}
        <ToggleButton
          id="band-even"
          type="checkbox"
          variant="outline-secondary"
          value="even"
          title={
            inRoom.through
              ? "What is heard in a place keeps the level of its bands"
              : "Brings a band alone to the loudness of the whole, up by 12 dB at most"
          }
          disabled={inRoom.through !== null}
          aria-label="A band as loud as the whole"
          checked={hearing.even}
          onChange={() => onHearing({ even: !hearing.even })}
        >
          =
        </ToggleButton>
      </ButtonGroup>
      {inRoom.through && (
        <Button
          size="sm"
          variant="secondary"
          title="Heard in a place (O); press to hear it as made"
          onClick={() => inRoom.hear(false)}
        >
          {inRoom.room.room === "own" ? inRoom.room.name : inRoom.room.room} ×
        </Button>
      )}
      {solo !== null && (
        <Button
          size="sm"
          variant="secondary"
          title="Heard alone (S); press to hear the others again"
          onClick={() => onHearing({ solo: null })}
        >
          {nameOf(shown, solo)} alone{partOf(shown, solo)?.mute ? ", and muted" : ""} ×
        </Button>
      )}
      {!compare.blind && <OutputMeter player={player} playing={playing} />}
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
