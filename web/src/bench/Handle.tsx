import { useGesture } from "@use-gesture/react";
import { useRef, useState, type KeyboardEvent } from "react";

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
  /** Right and up are two things: the wheel is for up. */
  twoWays?: boolean;
  /** The point is at hand: pressed or reached with Tab. */
  onFocus?: () => void;
  /** Delete was pressed on it. */
  onRemove?: () => void;
  /** It was double-clicked: back to its default. */
  onReset?: () => void;
}

/** With Shift the pointer moves it by this much of its own way. */
const FINE = 0.1;
/** With Shift keys and the wheel move it by so many steps. */
const COARSE = 10;
/** A notch of the wheel, in pixels. */
const NOTCH = 100;

/**
 * A point on a curve that is dragged, finely with Shift, or moved with the arrow keys or the wheel. It follows the
 * pointer from where that went down; Escape takes the drag back.
 */
export function Handle(props: Props) {
  const {
    x,
    y,
    label,
    value,
    low,
    high,
    text,
    onDrag,
    onNudge,
    onFocus,
    onRemove,
    onReset,
    twoWays = false,
  } = props;
  const ref = useRef<SVGGElement>(null);
  const back = useRef<(() => void) | null>(null);
  const [held, setHeld] = useState(false);
  useGesture(
    {
      onDrag: ({ first, last, canceled, delta, shiftKey, cancel, memo }) => {
        const from = (memo as { by: Props["onDrag"]; dx: number; dy: number } | undefined) ?? {
          by: onDrag,
          dx: 0,
          dy: 0,
        };
        if (first) ref.current?.focus();
        back.current = last
          ? null
          : () => {
              cancel();
              from.by(0, 0);
            };
        setHeld(!last);
        const share = shiftKey ? FINE : 1;
        const [dx, dy] = [from.dx + share * delta[0], from.dy + share * delta[1]];
        if (!canceled && (dx !== from.dx || dy !== from.dy)) from.by(dx, dy);
        return { ...from, dx, dy };
      },
      onWheel: ({ event, delta: [dx, dy], ctrlKey, shiftKey, memo }) => {
        if (ctrlKey) return;
        event.preventDefault();
        event.stopPropagation();
        const turned = ((memo as number | undefined) ?? 0) - (dy || dx);
        const notches = Math.trunc(turned / NOTCH);
        const by = (shiftKey ? COARSE : 1) * notches;
        if (by) onNudge(twoWays ? 0 : by, by);
        return turned - notches * NOTCH;
      },
    },
    { target: ref, eventOptions: { passive: false }, drag: { pointer: { keys: false } } },
  );
  const press = (event: KeyboardEvent) => {
    if (event.key === "Escape" && back.current) {
      event.stopPropagation();
      back.current();
      return;
    }
    if (onRemove && (event.key === "Delete" || event.key === "Backspace")) {
      event.preventDefault();
      onRemove();
      return;
    }
    const size = event.shiftKey ? COARSE : 1;
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
      ref={ref}
      className="handle"
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Math.round(value * 10) / 10}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuetext={text}
      transform={`translate(${x},${y})`}
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
