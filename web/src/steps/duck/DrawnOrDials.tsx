import { Button } from "react-bootstrap";
import { api, type ControlSheet, type DuckRecipe } from "../../api/client";
import { Controls } from "../../bench/Controls";
import { useDesk } from "../../track/context";
import { CurveEditor } from "./CurveEditor";

/** The group of the dials that a drawn curve does without, as the recipe has it. */
const DIALS = "Dials";

interface Props {
  sheet: ControlSheet;
  duck: DuckRecipe;
  gap: number;
  needed?: number[] | null;
  onChange: (changes: Partial<DuckRecipe>) => void;
}

/** One ducking curve: by its dials, or as points. */
export function DrawnOrDials({ sheet, duck, gap, needed = null, onChange }: Props) {
  const { say } = useDesk();
  const drawn = Boolean(duck.points?.length);
  const dials = sheet.controls.filter(({ group }) => group === DIALS).map(({ name }) => name);
  const edgeless = duck.band === "below" || duck.band === "above" ? [] : ["edge_hz"];
  const band = sheet.choices.find(({ name }) => name === "band");
  return (
    <>
      <Controls
        sheet={sheet}
        recipe={duck}
        onChange={onChange}
        without={["band", ...(drawn ? dials : []), ...edgeless]}
      />
      <div className="draw-row">
        {band && (
          <label className="dial-choice" title={band.help}>
            {band.label}
            <select
              className="form-select form-select-sm"
              value={duck.band}
              onChange={(event) => onChange({ band: event.target.value as DuckRecipe["band"] })}
            >
              {band.options.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </label>
        )}
        {!drawn && (
          <Button
            size="sm"
            className="draw-it"
            variant="outline-secondary"
            disabled={duck.depth_db === 0}
            onClick={() => {
              api
                .draw(duck)
                .then(({ points }) => onChange({ points: points ?? [] }))
                .catch((error: Error) => say(error.message));
            }}
          >
            Draw the curve
          </Button>
        )}
      </div>
      {drawn && (
        <CurveEditor
          duck={duck}
          gap={gap}
          needed={needed}
          onChange={(points) => onChange({ points })}
        />
      )}
    </>
  );
}
