import { Dropdown, Form } from "react-bootstrap";
import type { StockWish } from "../../api/client";
import { STOCK_RANGES } from "../../api/limits";

export type Range = { least: number | null; most: number | null };
export type Ranges = Partial<Record<(typeof STOCK_RANGES)[number][0], Range>>;
export interface NumbersAsked {
  ranges: Ranges;
  note: string;
  stars: number;
}
export const NO_NUMBERS: NumbersAsked = { ranges: {}, note: "", stars: 0 };

/** What numbers ask for: only what was filled in. */
export function wishOf({ ranges, note, stars }: NumbersAsked): Partial<StockWish> {
  const { length_ms = { least: null, most: null }, ...others } = ranges;
  const asked = Object.entries(others).filter(([, one]) => one.least !== null || one.most !== null);
  return {
    ...(length_ms.least !== null && { shortest_ms: length_ms.least }),
    ...(length_ms.most !== null && { longest_ms: length_ms.most }),
    ...(asked.length > 0 && { ranges: Object.fromEntries(asked) }),
    ...(note.trim() !== "" && { note }),
    ...(stars > 0 && { stars }),
  };
}

/** Sounds by their numbers: a note, stars, and from a least to a greatest value of each. */
export function RangesMenu(props: {
  asked: NumbersAsked;
  onChange: (asked: NumbersAsked) => void;
}) {
  const { asked, onChange } = props;
  const count = Object.keys(wishOf(asked)).length;
  const set = (name: keyof Ranges, end: keyof Range, text: string) => {
    const old = asked.ranges[name] ?? { least: null, most: null };
    const value = text === "" || Number.isNaN(Number(text)) ? null : Number(text);
    onChange({ ...asked, ranges: { ...asked.ranges, [name]: { ...old, [end]: value } } });
  };
  return (
    <Dropdown autoClose="outside">
      <Dropdown.Toggle
        size="sm"
        variant="outline-secondary"
        active={count > 0}
        title={count > 0 ? `${count} asked for` : "Sounds by their numbers"}
      >
        Numbers
      </Dropdown.Toggle>
      <Dropdown.Menu className="stock-ranges">
        <div>
          <span>note</span>
          <Form.Control
            size="sm"
            aria-label="Note"
            placeholder="G1, or G"
            maxLength={8}
            value={asked.note}
            onChange={(event) => onChange({ ...asked, note: event.target.value })}
          />
        </div>
        {STOCK_RANGES.map(([name, said, unit]) => (
          <div key={name}>
            <span>{said}</span>
            {(["least", "most"] as const).map((end) => (
              <Form.Control
                key={end}
                size="sm"
                type="number"
                aria-label={`${said}, ${end === "least" ? "from" : "to"}, in ${unit}`}
                placeholder={end === "least" ? "from" : "to"}
                value={asked.ranges[name]?.[end] ?? ""}
                onChange={(event) => set(name, end, event.target.value)}
              />
            ))}
            <small>{unit}</small>
          </div>
        ))}
        <div>
          <span>stars</span>
          <Form.Select
            size="sm"
            aria-label="Stars at least"
            value={asked.stars}
            onChange={(event) => onChange({ ...asked, stars: Number(event.target.value) })}
          >
            {[0, 1, 2, 3, 4, 5].map((n) => (
              <option key={n} value={n}>
                {n === 0 ? "any" : `${n} or more`}
              </option>
            ))}
          </Form.Select>
        </div>
      </Dropdown.Menu>
    </Dropdown>
  );
}
