import { useId } from "react";
import type { Control } from "../api/client";
import { onStep, placeOf, shownValue, valueAt } from "./scale";
import { useTyped } from "./useTyped";

interface Props {
  control: Control;
  value: number;
  onChange: (value: number) => void;
  big?: boolean;
  disabled?: boolean;
  /** It follows a curve. */
  moves?: boolean;
}

const FINE = 1000;

/** A slider with a typed value, built from what the recipe's field says of itself. */
export function Slider(props: Props) {
  const { control, value, onChange, big = false, moves = false } = props;
  const disabled = moves || props.disabled;
  const id = useId();
  const isOff = control.off !== null && value === control.off;
  // Where nothing happens in the middle of the way, the number says it better.
  const saysOff = isOff && (control.off === control.low || control.off === control.high);
  const shown = shownValue(control, value);
  const resting = moves ? "moves" : saysOff ? "off" : shown;
  const { field, typing, wrong } = useTyped(shown, resting, control, (number) => {
    onChange(control.step >= 1 ? onStep({ ...control, scale: "linear" }, number) : number);
  });
  const linear = control.scale === "linear";
  return (
    <div
      className={`dial${big ? " dial-big" : ""}${isOff ? " dial-off" : ""}`}
      title={control.help}
    >
      <label htmlFor={id}>{control.label}</label>
      <span className="dial-value">
        <input
          {...field}
          aria-label={`${control.label}, typed${control.unit ? `, in ${control.unit}` : ""}`}
          disabled={disabled}
        />
        <span className="unit">{(saysOff || moves) && !typing ? "" : control.unit}</span>
      </span>
      <input
        id={id}
        type="range"
        min={linear ? control.low : 0}
        max={linear ? control.high : FINE}
        step={linear ? control.step : 1}
        value={linear ? value : Math.round(placeOf(control, value) * FINE)}
        aria-valuetext={moves || saysOff ? resting : `${shown} ${control.unit}`}
        aria-description={control.help}
        disabled={disabled}
        onDoubleClick={() => onChange(control.default)}
        onChange={(event) => {
          const place = Number(event.target.value);
          onChange(linear ? onStep(control, place) : valueAt(control, place / FINE));
        }}
      />
      {wrong && (
        <span className="typed-wrong" role="alert">
          {wrong}
        </span>
      )}
    </div>
  );
}
