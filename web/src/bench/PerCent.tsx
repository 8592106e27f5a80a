interface Props {
  label: string;
  /** From 0 to 1. */
  value: number;
  onChange: (value: number) => void;
}

const capital = (word: string) => word.slice(0, 1).toUpperCase() + word.slice(1);

/** How hard something is struck: drawn, or typed in per cent. */
export function PerCent({ label, value, onChange }: Props) {
  const percent = Math.round(100 * value);
  return (
    <label className="layer-choice">
      {label}
      <input
        type="range"
        min={0.01}
        max={1}
        step={0.01}
        value={value}
        aria-valuetext={`${percent} per cent`}
        onChange={(event) => onChange(Number(event.target.value))}
      />
      <input
        type="number"
        className="form-control form-control-sm velocity"
        aria-label={`${capital(label)}, typed, in per cent`}
        min={1}
        max={100}
        value={percent}
        onChange={(event) => {
          const typed = Number(event.target.value);
          if (typed >= 1 && typed <= 100) onChange(typed / 100);
        }}
      />
      %
    </label>
  );
}
