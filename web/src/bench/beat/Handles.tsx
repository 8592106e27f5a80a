import { useDesk } from "../../track/context";
import { editLayer, editSource, plainKick } from "../../track/edits";
import { editHit, editMain, hitOf, mainDucking } from "../../track/parts";
import { Handle } from "../Handle";
import { decibels, millis } from "../scale";
import { useLimits } from "../useLimits";
import { ends, gainScale, limited, MARGIN, pixelsPerMs, type Scale } from "./frame";

/** The end of a made kick, dragged. */
export function TailHandle({ x, y }: { x: Scale; y: number }) {
  const { shown, change, hitId } = useDesk();
  const limit = useLimits("source:kick")("length_ms");
  const hit = hitOf(shown, hitId);
  const recipe = plainKick(hit);
  if (!recipe || recipe.length_note !== "ms") return null;
  const length = recipe.length_ms;
  const set = (ms: number) => {
    const rounded = Math.round(limited(ms, limit.low, limit.high));
    change(editHit(hit.id, editLayer(0, editSource({ length_ms: rounded }))));
  };
  return (
    <Handle
      x={Math.min(x(length), ends(x)[1])}
      y={y}
      label="End of the kick"
      value={length}
      low={limit.low}
      high={limit.high}
      text={millis(length)}
      onDrag={(dx) => set(length + dx / pixelsPerMs(x))}
      onNudge={(right) => set(length + 5 * right)}
      onReset={() => set(limit.default)}
    />
  );
}

/** The bottom of the ducking and the return of the bass, dragged. */
export function DuckHandles(props: { x: Scale; from: number; height: number; origin: number }) {
  const { x, from, height, origin } = props;
  const { shown, change, answer } = useDesk();
  const limits = useLimits("duck");
  const { duck } = mainDucking(shown);
  const start = (answer.data?.kick_times_ms ?? [])
    .map((ms) => ms - origin)
    .find((ms) => ms >= from - 1 && ms < (x.domain()[1] as number));
  // A drawn curve has points of its own, in the Duck step.
  if (start === undefined || duck.depth_db === 0 || duck.points?.length) return null;
  const gain = gainScale(height);
  const set = (changes: Record<string, number>) =>
    change((old) => {
      const next = { ...mainDucking(old).duck };
      for (const [name, value] of Object.entries(changes)) {
        const { low, high } = limits(name);
        const rounded = Math.round(limited(value, low, high) * 10) / 10;
        next[name as "hold_ms" | "depth_db" | "release_ms"] = rounded;
      }
      return editMain({ duck: next })(old);
    });
  const ms = pixelsPerMs(x);
  const db = Math.abs(gain(-1) - gain(0));
  const isSeen = (at: number) => at >= from && at <= (x.domain()[1] as number);
  const bottomAt = start - duck.lookahead_ms + duck.attack_ms + duck.hold_ms;
  const backAt = bottomAt + duck.release_ms;
  return (
    <>
      {isSeen(bottomAt) && (
        <Handle
          x={x(bottomAt)}
          y={gain(-duck.depth_db)}
          label="Depth and hold of the ducking"
          value={duck.depth_db}
          low={limits("depth_db").low}
          high={limits("depth_db").high}
          text={`${decibels(duck.depth_db)} deep, held ${millis(duck.hold_ms)}`}
          onDrag={(dx, dy) =>
            set({ hold_ms: duck.hold_ms + dx / ms, depth_db: duck.depth_db + dy / db })
          }
          twoWays
          onNudge={(right, above) =>
            set({ hold_ms: duck.hold_ms + right, depth_db: duck.depth_db - 0.5 * above })
          }
          onReset={() =>
            set({ hold_ms: limits("hold_ms").default, depth_db: limits("depth_db").default })
          }
        />
      )}
      {isSeen(backAt) && (
        <Handle
          x={x(backAt)}
          y={gain(0)}
          label="Return of the bass"
          value={duck.release_ms}
          low={limits("release_ms").low}
          high={limits("release_ms").high}
          text={`release ${millis(duck.release_ms)}`}
          onDrag={(dx) => set({ release_ms: duck.release_ms + dx / ms })}
          onNudge={(right) => set({ release_ms: duck.release_ms + 2 * right })}
          onReset={() => set({ release_ms: limits("release_ms").default })}
        />
      )}
    </>
  );
}

/** The moment that the ladder shows, dragged along the bar. */
export function MomentHandle(props: { x: Scale; height: number; origin: number }) {
  const { x, height, origin } = props;
  const { facts, bar, moment, setMoment } = useDesk();
  const [from, to] = ends(x);
  if (moment === null) return null;
  const set = (ms: number) => setMoment(limited(ms, 0, facts.bar_ms));
  const at = limited(x(bar * facts.bar_ms + moment - origin), from, to);
  return (
    <>
      <line x1={at} x2={at} y1={MARGIN.top} y2={height - MARGIN.bottom} className="moment-line" />
      <Handle
        x={at}
        y={height - MARGIN.bottom - 8}
        label="Moment of the ladder"
        value={moment}
        low={0}
        high={Math.round(facts.bar_ms)}
        text={millis(moment)}
        onDrag={(dx) => set(moment + dx / pixelsPerMs(x))}
        onNudge={(right) => set(moment + 5 * right)}
      />
    </>
  );
}
