import { useId, useLayoutEffect, useRef, useState } from "react";
import type { Control } from "../api/client";
import { onStep, placeOf, shownValue, valueAt } from "./scale";

interface Props {
  control: Control;
  value: number;
  onChange: (value: number) => void;
  big?: boolean;
  disabled?: boolean;
}

const FINE = 1000;

/** A slider with a typed value, built from what the recipe's field says of itself. */
export function Slider({ control, value, onChange, big = false, disabled = false }: Props) {
  const id = useId();
  const field = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const isOff = control.off !== null && value === control.off;
  // Where nothing happens in the middle of the way, the number says it better.
  const saysOff = isOff && (control.off === control.low || control.off === control.high);
  const shown = shownValue(control, value);
  const finish = () => {
    const number = Number((typed ?? "").replace(",", ".").replace("−", "-"));
    if (typed !== null && typed.trim() !== "" && Number.isFinite(number)) {
      const limited = Math.min(control.high, Math.max(control.low, number));
      onChange(control.step >= 1 ? onStep({ ...control, scale: "linear" }, limited) : limited);
    }
    setTyped(null);
  };
  // Only now is the number there that typing is to replace: "off" gives way to it.
  const typing = typed !== null;
  useLayoutEffect(() => {
    if (typing) field.current?.select();
  }, [typing]);
  const linear = control.scale === "linear";
  return (
    <div
      className={`dial${big ? " dial-big" : ""}${isOff ? " dial-off" : ""}`}
      title={control.help}
    >
      <label htmlFor={id}>{control.label}</label>
      <span className="dial-value">
        <input
          type="text"
          inputMode="decimal"
          aria-label={`${control.label}, typed${control.unit ? `, in ${control.unit}` : ""}`}
          value={typed ?? (saysOff ? "off" : shown)}
          disabled={disabled}
          ref={field}
          onFocus={() => setTyped(shown)}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={finish}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
            if (event.key === "Escape") {
              setTyped(null);
              event.stopPropagation();
            }
          }}
        />
        <span className="unit">{saysOff && typed === null ? "" : control.unit}</span>
      </span>
      <input
        id={id}
        type="range"
        min={linear ? control.low : 0}
        max={linear ? control.high : FINE}
        step={linear ? control.step : 1}
        value={linear ? value : Math.round(placeOf(control, value) * FINE)}
        aria-valuetext={saysOff ? "off" : `${shown} ${control.unit}`}
        aria-description={control.help}
        disabled={disabled}
        onChange={(event) => {
          const place = Number(event.target.value);
          onChange(linear ? onStep(control, place) : valueAt(control, place / FINE));
        }}
      />
    </div>
  );
}
