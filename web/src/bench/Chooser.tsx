import { ButtonGroup } from "react-bootstrap";
import { ToggleButton } from "./ToggleButton";

/** One of a few, side by side. */
export function Chooser<V extends string | number>(props: {
  name: string;
  shown: string;
  label: string;
  options: [V, string][];
  value: V;
  onChoose: (value: V) => void;
}) {
  return (
    <span className="chooser">
      <span aria-hidden>{props.shown}</span>
      <ButtonGroup size="sm" aria-label={props.label}>
        {props.options.map(([value, text]) => (
          <ToggleButton
            key={value}
            id={`beat-${props.name}-${value}`}
            type="radio"
            name={`beat-${props.name}`}
            variant="outline-secondary"
            value={String(value)}
            checked={props.value === value}
            onChange={() => props.onChoose(value)}
          >
            {text}
          </ToggleButton>
        ))}
      </ButtonGroup>
    </span>
  );
}
