import { scaleLinear, scaleLog } from "d3-scale";
import { area, line } from "d3-shape";
import type { Control, ControlSheet, Stage, StageReport } from "../../api/client";
import { SPECTRUM_FLOOR_DB } from "../../api/limits";
import { Handle } from "../Handle";
import { decibels, onStep, placeOf, shownValue, valueAt } from "../scale";
import { useSize } from "../useSize";
import "./equaliser.css";

type Values = Extract<Stage, { stage: "equaliser" }>;
type Field = Exclude<keyof Values, "stage" | "bypass" | "id">;

interface Props {
  stage: Values;
  sheet: ControlSheet;
  report: StageReport;
  onChange: (changes: Partial<Values>) => void;
  /** Controls that follow a move: they have no place of their own. */
  moved: string[];
}

const PAD = 14;
const REACH_DB = 24;
const LINES_HZ = [50, 100, 200, 500, 1000, 2000, 5000, 10000];
/** What is dragged: sideways a frequency, and up and down its gain where it has one. */
const HANDLES: [string, Field, Field?][] = [
  ["High-pass", "highpass_hz"],
  ["Low shelf", "low_shelf_hz", "low_shelf_db"],
  ["Bell", "bell_hz", "bell_db"],
  ["Second bell", "second_hz", "second_db"],
  ["High shelf", "high_shelf_hz", "high_shelf_db"],
  ["Low-pass", "lowpass_hz"],
];

/** An equaliser's curve over the spectrum of what goes into it, to be taken by its handles. */
export function Equaliser({ stage, sheet, report, onChange, moved }: Props) {
  const { ref, width, height } = useSize<SVGSVGElement>();
  const x = scaleLog([20, 20000], [PAD, width - PAD]).clamp(true);
  const y = scaleLinear([REACH_DB, -REACH_DB], [8, height - 16]).clamp(true);
  const level = scaleLinear([0, -SPECTRUM_FLOOR_DB], [8, height - 16]);
  const at = (n: number, of: number[]) => x(20 * 1000 ** (n / (of.length - 1)));
  const { curve_db: curve, spectrum_db: spectrum } = report;
  const seen = area<number>()
    .x((_, n) => at(n, spectrum))
    .y0(height - 16)
    .y1(level)(spectrum);
  const bent = line<number>()
    .x((_, n) => at(n, curve))
    .y(y)(curve);
  const control = (name: string) => sheet.controls.find((one) => one.name === name) as Control;
  const handle = ([name, hz, db]: (typeof HANDLES)[number]) => {
    const tone = control(hz);
    const gain = db && control(db);
    const now = { hz: stage[hz] as number, db: db ? (stage[db] as number) : 0 };
    // As far along the picture as the pointer went, whatever the control's own reach.
    const toned = (dx: number) => onStep(tone, x.invert(x(now.hz) + dx));
    const gained = (dy: number) => gain && { [gain.name]: onStep(gain, y.invert(y(now.db) + dy)) };
    const text = `${shownValue(tone, now.hz)} Hz${gain ? `, ${decibels(now.db)}` : ""}`;
    return (
      <Handle
        key={name}
        x={x(now.hz)}
        y={y(now.db)}
        label={`${name} on the curve`}
        value={now.hz}
        low={tone.low}
        high={tone.high}
        text={text}
        onDrag={(dx, dy) => onChange({ [hz]: toned(dx), ...gained(dy) })}
        twoWays
        onNudge={(right, up) =>
          onChange({
            ...(right ? { [hz]: valueAt(tone, placeOf(tone, now.hz) + right / 200) } : {}),
            ...(up && gain ? { [gain.name]: onStep(gain, now.db + up / 2) } : {}),
          })
        }
        onReset={() => onChange({ [hz]: tone.default, ...(gain && { [gain.name]: gain.default }) })}
      />
    );
  };
  return (
    <svg ref={ref} className="equaliser" role="group" aria-label="The equaliser’s curve">
      {width > 0 && (
        <>
          <path d={seen ?? ""} className="seen" />
          {LINES_HZ.map((hz) => (
            <g key={hz} aria-hidden>
              <line x1={x(hz)} x2={x(hz)} y1={8} y2={height - 16} className="grid" />
              <text x={x(hz)} y={height - 4} textAnchor="middle">
                {hz < 1000 ? hz : `${hz / 1000}k`}
              </text>
            </g>
          ))}
          {[-12, 0, 12].map((db) => (
            <g key={db} aria-hidden>
              <line x1={PAD} x2={width - PAD} y1={y(db)} y2={y(db)} className="grid" />
              <text x={width - PAD - 16} y={y(db) - 2} textAnchor="end">
                {decibels(db, 0)}
              </text>
            </g>
          ))}
          <path d={bent ?? ""} className="bent" />
          {HANDLES.filter(([, hz]) => !moved.includes(hz)).map(handle)}
        </>
      )}
    </svg>
  );
}
