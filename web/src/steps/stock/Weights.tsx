import { Dropdown } from "react-bootstrap";
import { FIT_REASONS, MOST_WEIGHT } from "../../api/limits";

interface Props {
  weights: Record<string, number>;
  onChange: (weights: Record<string, number>) => void;
}

/** How much each reason counts for what fits. */
export function Weights({ weights, onChange }: Props) {
  return (
    <Dropdown autoClose="outside">
      <Dropdown.Toggle size="sm" variant="outline-secondary">
        What counts
      </Dropdown.Toggle>
      <Dropdown.Menu className="stock-weights">
        {FIT_REASONS.map(([name, said, usual]) => (
          <label key={name}>
            <span>{said}</span>
            <input
              type="range"
              min={0}
              max={MOST_WEIGHT}
              step={0.5}
              value={weights[name] ?? usual}
              onChange={(event) => onChange({ ...weights, [name]: Number(event.target.value) })}
            />
            <output>{(weights[name] ?? usual).toFixed(1)}</output>
          </label>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
