import { useRef, useState } from "react";

export interface Cell {
  on: boolean;
  text: string;
  label: string;
  beat: boolean;
  held?: boolean;
  chosen?: boolean;
  off?: boolean;
  /** How hard it is struck, drawn as a height; full where it is not said. */
  velocity?: number;
}

/** What lies between the places: where, from 0 to 1 of the bar. */
export interface Mark {
  at: number;
  along: number;
  velocity: number;
  label: string;
  chosen: boolean;
}

interface Props {
  name: string;
  title?: string;
  line?: boolean;
  cells: Cell[];
  /** What stands in place of cells where there are none. */
  instead?: string;
  muted?: boolean;
  onMute?: () => void;
  onToggle: (place: number) => void;
  onChoose?: (place: number) => void;
  onUp?: (place: number, by: number, shift: boolean) => void;
  marks?: Mark[];
  onMark?: (at: number) => void;
}

// Passing by with Tab takes nothing in hand: what is said below the stave stays about what was at hand.
let passing = false;
const noticed = (event: Event) => {
  passing = event instanceof KeyboardEvent && event.key === "Tab";
};
window.addEventListener("keydown", noticed, true);
window.addEventListener("pointerdown", noticed, true);

/** One part over a bar: Enter or click switches a place, arrows go along it and up and down, Tab to the next. */
export function Row(props: Props) {
  const { name, cells, line = false, muted = false } = props;
  const row = useRef<HTMLDivElement>(null);
  // A first click on a note takes it in hand; only one that is in hand already is taken away.
  const inHand = useRef(false);
  const [stop, setStop] = useState(0);
  const go = (place: number) =>
    row.current?.querySelectorAll<HTMLElement>("button.cell")[place]?.focus();
  return (
    <div className={`stave-row${muted ? " stave-muted" : ""}`} ref={row} title={props.title}>
      {props.onMute ? (
        <button
          type="button"
          className="stave-name"
          aria-pressed={muted}
          aria-label={`Mute ${name}`}
          title={muted ? "Muted: press to hear it" : "Press to mute"}
          onClick={props.onMute}
        >
          {name}
          {muted && <small> mute</small>}
        </button>
      ) : (
        <span className="stave-name">{name}</span>
      )}
      {props.instead !== undefined && <span className="stave-instead">{props.instead}</span>}
      <div className="stave-cells" style={{ gridTemplateColumns: `repeat(${cells.length}, 1fr)` }}>
        {cells.map((cell, n) => (
          <button
            key={n}
            type="button"
            disabled={cell.off}
            tabIndex={n === Math.min(stop, cells.length - 1) ? 0 : -1}
            className={`cell${line ? " cell-bass" : ""}${cell.beat ? " cell-beat" : ""}${cell.held ? " cell-held" : ""}${cell.chosen ? " cell-chosen" : ""}`}
            aria-pressed={cell.on}
            aria-label={cell.label}
            onPointerDown={() => (inHand.current = cell.chosen === true)}
            onClick={(event) => {
              const byKey = event.detail === 0;
              if (cell.on && props.onChoose && !byKey && !inHand.current) props.onChoose(n);
              else props.onToggle(n);
            }}
            onFocus={() => {
              setStop(n);
              if (!passing) props.onChoose?.(n);
            }}
            onKeyDown={(event) => {
              const along = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
              const up = { ArrowUp: 1, ArrowDown: -1 }[event.key];
              if (along) go(n + along);
              else if (up && cell.on && props.onUp) props.onUp(n, up, event.shiftKey);
              else if (event.key === "Delete" && cell.on) props.onToggle(n);
              else return;
              event.preventDefault();
            }}
          >
            {cell.on && cell.velocity !== undefined && (
              <span
                className="cell-velocity"
                style={{ height: `${100 * cell.velocity}%` }}
                aria-hidden
              />
            )}
            <span className="cell-text">{cell.text}</span>
          </button>
        ))}
        {props.marks?.map((mark) => (
          <button
            key={mark.at}
            type="button"
            className={mark.chosen ? "off-grid cell-chosen" : "off-grid"}
            style={{ left: `${100 * mark.along}%` }}
            aria-label={mark.label}
            aria-pressed={mark.chosen}
            onClick={() => props.onMark?.(mark.at)}
            onFocus={() => passing || props.onMark?.(mark.at)}
          >
            <span style={{ height: `${100 * mark.velocity}%` }} aria-hidden />
          </button>
        ))}
      </div>
    </div>
  );
}
