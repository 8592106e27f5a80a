import { useRef, type KeyboardEvent, type PointerEvent } from "react";

interface Props {
  x: number;
  y: number;
  label: string;
  value: number;
  low: number;
  high: number;
  text: string;
  /** Moved by so many pixels since the last call. */
  onDrag: (dx: number, dy: number) => void;
  /** One arrow key: −1 or +1 on either axis, ten times that with Shift. */
  onNudge: (right: number, up: number) => void;
  /** The hand has let go. */
  onDone?: () => void;
  /** The point is at hand: pressed or reached with Tab. */
  onFocus?: () => void;
  /** Delete was pressed on it. */
  onRemove?: () => void;
}

/** A point on a curve that is dragged or moved with the arrow keys. */
export function Handle(props: Props) {
  const { x, y, label, value, low, high, text, onDrag, onNudge, onDone, onFocus, onRemove } = props;
  const last = useRef<{ x: number; y: number } | null>(null);
  const move = (event: PointerEvent) => {
    if (!last.current) return;
    onDrag(event.clientX - last.current.x, event.clientY - last.current.y);
    last.current = { x: event.clientX, y: event.clientY };
  };
  const nudge = (event: KeyboardEvent) => {
    if (onRemove && (event.key === "Delete" || event.key === "Backspace")) {
      event.preventDefault();
      onRemove();
      return;
    }
    const size = event.shiftKey ? 10 : 1;
    const [right, up] = {
      ArrowRight: [size, 0],
      ArrowLeft: [-size, 0],
      ArrowUp: [0, size],
      ArrowDown: [0, -size],
    }[event.key] ?? [0, 0];
    if (!right && !up) return;
    event.preventDefault();
    onNudge(right as number, up as number);
  };
  return (
    <g
      className="handle"
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Math.round(value * 10) / 10}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuetext={text}
      transform={`translate(${x},${y})`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        last.current = { x: event.clientX, y: event.clientY };
      }}
      onPointerMove={move}
      onPointerUp={() => {
        last.current = null;
        onDone?.();
      }}
      onFocus={onFocus}
      onKeyDown={nudge}
    >
      <title>{`${label}: ${text}`}</title>
      <circle r={14} className="handle-reach" />
      <circle r={6} className="handle-dot" />
    </g>
  );
}
