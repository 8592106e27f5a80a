import { Form } from "react-bootstrap";
import { useDesk } from "../../track/context";

interface Props {
  locks: string[];
  onChange: (locks: string[]) => void;
  disabled: boolean;
}

/** The parts that are to stay as they are. */
export function Stays({ locks, onChange, disabled }: Props) {
  const { state } = useDesk();
  return (
    <span role="group" aria-label="What stays as it is">
      <span>Stays as it is: </span>
      {state.parts
        .filter(({ part }) => part === "hit" || part === "line")
        .map(({ id, name }) => (
          <Form.Check
            key={id}
            inline
            id={`lock-${id}`}
            label={name}
            checked={locks.includes(id)}
            disabled={disabled}
            onChange={() =>
              onChange(locks.includes(id) ? locks.filter((one) => one !== id) : [...locks, id])
            }
          />
        ))}
    </span>
  );
}
