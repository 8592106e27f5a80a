import { useGesture } from "@use-gesture/react";
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type RefObject,
} from "react";
import { useAddress } from "./useAddress";

export type Range = [from: number, to: number];

/** The same range seen from nearer or farther: `factor` times as wide, with one place staying where it is. */
export function zoomed(
  [from, to]: Range,
  factor: number,
  at: number,
  ends: Range,
  least: number,
): Range {
  const whole = ends[1] - ends[0];
  const span = Math.min(whole, Math.max(least, (to - from) * factor));
  const share = to > from ? (at - from) / (to - from) : 0.5;
  return within([at - share * span, at - share * span + span], ends);
}

/** A range moved into its ends without changing its width. */
export function within([from, to]: Range, [low, high]: Range): Range {
  const shift = Math.max(0, low - from) - Math.max(0, to - high);
  return [Math.max(low, from + shift), Math.min(high, to + shift)];
}

const WRITTEN_MS = 300;
const STEP = 1.5;

interface Setting {
  /** What is seen when nothing is zoomed, and how far it can be moved. */
  shown: Range;
  ends: Range;
  /** The least width: in octaves where it stands upright, for that is an axis of frequency. */
  least: number;
  upright?: boolean;
  /** What buttons and keys zoom around, where it is seen; the middle otherwise. */
  around?: number;
}

interface Zooming {
  /** What is seen now; null where it is what is seen anyway. */
  range: Range | null;
  reset: () => void;
  /** Nearer or farther by a step, around the middle. */
  step: (nearer: boolean) => void;
  keys: (event: KeyboardEvent) => void;
}

/**
 * A picture that is seen from nearer or farther with the wheel, two fingers or keys: with Shift, or sideways, the
 * wheel moves along it, and so does one finger. What is seen is kept in the address. `place` says what lies at a pixel.
 */
export function useZoom(
  ref: RefObject<SVGSVGElement | null>,
  name: string,
  setting: Setting,
  place: (pixel: number, range: Range) => number,
): Zooming {
  const { asked, put } = useAddress();
  // Of each name apart: a picture may show a hit now and the loop again later.
  const [held, setHeld] = useState<Record<string, Range | null>>({});
  const written = asked.get(name);
  const [low, high] = setting.ends;
  const range = useMemo(() => {
    const own = held[name];
    const found = own === undefined ? read(written) : own;
    // What was zoomed in something longer may lie behind the end of this.
    return found && found[0] < high ? within(found, [low, high]) : null;
  }, [held, high, low, name, written]);
  const current = useRef({ range, setting, place });
  useEffect(() => {
    current.current = { range, setting, place };
  });
  const setRange = useCallback(
    (next: (old: Range | null) => Range | null) =>
      setHeld((old) => ({ ...old, [name]: next(old[name] ?? current.current.range) })),
    [name],
  );
  useEffect(() => {
    const next = range && range.map((one) => Number(one.toPrecision(6))).join("~");
    if (next === written) return;
    const timer = window.setTimeout(() => put(name, next), WRITTEN_MS);
    return () => window.clearTimeout(timer);
  }, [name, put, range, written]);

  const to = useCallback(
    (next: (old: Range, ends: Range, least: number) => Range) => {
      const { shown, ends, least, upright } = current.current.setting;
      const even = ([from, to]: Range): Range =>
        upright ? [Math.log2(from), Math.log2(to)] : [from, to];
      setRange((old) => {
        const [from, to] = next(even(old ?? shown), even(ends), least);
        return upright ? [2 ** from, 2 ** to] : [from, to];
      });
    },
    [setRange],
  );
  const by = useCallback(
    (factor: number, at?: number) =>
      to((old, ends, least) => zoomed(old, factor, at ?? (old[0] + old[1]) / 2, ends, least)),
    [to],
  );
  const along = useCallback(
    (share: number) =>
      to((old, ends) => {
        const way = share * (old[1] - old[0]);
        return within([old[0] + way, old[1] + way], ends);
      }),
    [to],
  );
  const at = (x: number, y: number) => {
    const box = ref.current?.getBoundingClientRect();
    const { range, setting, place } = current.current;
    const pixel = setting.upright ? y - (box?.top ?? 0) : x - (box?.left ?? 0);
    const found = place(pixel, range ?? setting.shown);
    return setting.upright ? Math.log2(found) : found;
  };
  useEffect(() => {
    const picture = ref.current;
    // A finger on a handle moves that and not the page: inside a drawing no style says so.
    const stay = (event: TouchEvent) => isHeld(event) && event.preventDefault();
    picture?.addEventListener("touchmove", stay, { passive: false });
    return () => picture?.removeEventListener("touchmove", stay);
  }, [ref]);
  useGesture(
    {
      // A finger takes what is seen along; a mouse has its wheel, and marks with its drag.
      onDrag: ({ event, delta: [dx, dy], pinching }) => {
        const box = ref.current?.getBoundingClientRect();
        const finger = "pointerType" in event && event.pointerType === "touch";
        if (pinching || !finger || isHeld(event) || !box) return;
        along(current.current.setting.upright ? dy / box.height : -dx / box.width);
      },
      onWheel: ({ event, delta: [dx, dy], ctrlKey, shiftKey }) => {
        if (ctrlKey) return;
        event.preventDefault();
        const aside = shiftKey ? dy || dx : dx;
        if (shiftKey || Math.abs(dx) > Math.abs(dy)) along(aside / 600);
        else by(1.0025 ** dy, at(event.clientX, event.clientY));
      },
      onPinch: ({ event, origin: [x, y], offset: [scale], memo }) => {
        event.preventDefault();
        const last = (memo as number | undefined) ?? scale;
        if (scale !== last) by(last / scale, at(x, y));
        return scale;
      },
    },
    { target: ref, eventOptions: { passive: false }, drag: { pointer: { keys: false } } },
  );
  const step = (nearer: boolean) => {
    const { around, shown } = setting;
    const [from, to] = range ?? shown;
    const seen = around !== undefined && around >= from && around <= to;
    by(nearer ? 1 / STEP : STEP, seen ? around : undefined);
  };
  const keys = (event: KeyboardEvent) => {
    const forward = setting.upright ? "ArrowUp" : "ArrowRight";
    const back = setting.upright ? "ArrowDown" : "ArrowLeft";
    const work = {
      "+": () => step(true),
      "=": () => step(true),
      "-": () => step(false),
      [forward]: () => along(0.1),
      [back]: () => along(-0.1),
      Home: () => setRange(() => null),
    }[event.key];
    if (!work || event.ctrlKey || event.metaKey || event.target !== event.currentTarget) return;
    event.preventDefault();
    event.stopPropagation();
    work();
  };
  return { range, step, keys, reset: useCallback(() => setRange(() => null), [setRange]) };
}

const isHeld = ({ target }: Event) =>
  target instanceof Element && target.closest(".handle") !== null;

function read(written: string | null): Range | null {
  const [from, to] = (written ?? "").split("~").map(Number);
  return from !== undefined && to !== undefined && from < to ? [from, to] : null;
}
