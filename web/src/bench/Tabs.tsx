import { ButtonGroup } from "react-bootstrap";
import { ToggleButton } from "./ToggleButton";

interface Props<T extends string> {
  /** What is chosen between, as a screen reader says it. */
  label: string;
  /** Begins the ids, so that two sets of tabs stay apart. */
  name: string;
  tabs: readonly (readonly [T, string])[];
  at: T;
  onChoose: (tab: T) => void;
}

/** The parts of a step, one of which is shown. */
export function Tabs<T extends string>({ label, name, tabs, at, onChoose }: Props<T>) {
  return (
    <ButtonGroup size="sm" aria-label={label}>
      {tabs.map(([id, shown]) => (
        <ToggleButton
          key={id}
          id={`${name}-${id}`}
          type="radio"
          name={name}
          variant="outline-secondary"
          value={id}
          checked={at === id}
          onChange={() => onChoose(id)}
        >
          {shown}
        </ToggleButton>
      ))}
    </ButtonGroup>
  );
}
