import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

interface Props {
  x: number;
  y: number;
  label: string;
  value: number;
  low: number;
  high: number;
  text: string;
  /**
   * So many pixels from where it went down. While it is dragged the function of that moment is called: values it
   * reckons from are those of then.
   */
  onDrag: (dx: number, dy: number) => void;
  /** One arrow key: −1 or +1 on either axis, ten times that with Shift. */
  onNudge: (right: number, up: number) => void;
  /** The point is at hand: pressed or reached with Tab. */
  onFocus?: () => void;
  /** Delete was pressed on it. */
  onRemove?: () => void;
  /** It was double-clicked: back to its default. */
  onReset?: () => void;
}

/** With Shift the pointer moves it by this much of its own way. */
const FINE = 0.1;

/**
 * A point on a curve that is dragged, finely with Shift, or moved with the arrow keys. It follows the pointer from
 * where that went down; Escape takes the drag back.
 */
export function Handle(props: Props) {
  const { x, y, label, value, low, high, text, onDrag, onNudge, onFocus, onRemove, onReset } =
    props;
  const drag = useRef<{ by: Props["onDrag"]; x: number; y: number; dx: number; dy: number } | null>(
    null,
  );
  const [held, setHeld] = useState(false);
  const release = () => {
    drag.current = null;
    setHeld(false);
  };
  const move = (event: PointerEvent) => {
    const from = drag.current;
    if (!from) return;
    const share = event.shiftKey ? FINE : 1;
    from.dx += share * (event.clientX - from.x);
    from.dy += share * (event.clientY - from.y);
    from.x = event.clientX;
    from.y = event.clientY;
    from.by(from.dx, from.dy);
  };
  const press = (event: KeyboardEvent) => {
    if (event.key === "Escape" && drag.current) {
      event.stopPropagation();
      drag.current.by(0, 0);
      release();
      return;
    }
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
        event.currentTarget.focus();
        drag.current = { by: onDrag, x: event.clientX, y: event.clientY, dx: 0, dy: 0 };
        setHeld(true);
      }}
      onPointerMove={move}
      onPointerUp={release}
      onPointerCancel={release}
      onDoubleClick={(event) => {
        if (!onReset) return;
        event.stopPropagation();
        onReset();
      }}
      onFocus={onFocus}
      onKeyDown={press}
    >
      <title>{`${label}: ${text}`}</title>
      <circle r={14} className="handle-reach" />
      <circle r={6} className="handle-dot" />
      {held && (
        <text y={y < 40 ? 26 : -14} textAnchor="middle" className="handle-value" aria-hidden>
          {text}
        </text>
      )}
    </g>
  );
}
