const MARGINS_DB = [0, 3, 6, 9];

/** How clear a solved ducking keeps what starts it. */
export function Margin(props: { value: number; onChange: (margin: number) => void }) {
  return (
    <label
      className="return-on"
      title="How far under its trigger the sound is to lie: 6 dB, or more"
    >
      margin
      <select
        className="form-select form-select-sm margin"
        value={props.value}
        onChange={(event) => props.onChange(Number(event.target.value))}
      >
        {MARGINS_DB.map((db) => (
          <option key={db} value={db}>
            {6 + db} dB
          </option>
        ))}
      </select>
    </label>
  );
}
