import { useTyped } from "./useTyped";

interface Props {
  label: string;
  /** What it is a number of. */
  of?: string;
  unit: string;
  value: number;
  digits?: number;
  low: number;
  high: number;
  onType: (value: number) => void;
}

/** A number of what is at hand: what is typed holds when it is left or Enter is pressed. */
export function Typed(props: Props) {
  const { label, of = "Point", unit, value, digits = 1, onType } = props;
  const shown = value.toFixed(digits).replace("-", "−");
  const { field, wrong } = useTyped(shown, shown, props, onType);
  return (
    <label>
      {label}{" "}
      <input
        {...field}
        className="form-control form-control-sm"
        aria-label={`${of} ${label}${unit && `, in ${unit}`}`}
      />{" "}
      {unit}
      {wrong && (
        <span className="typed-wrong" role="alert">
          {wrong}
        </span>
      )}
    </label>
  );
}
