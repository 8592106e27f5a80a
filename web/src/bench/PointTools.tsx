import type { ReactNode } from "react";
import { Button } from "react-bootstrap";

interface Props {
  /** How many points there are, and which one is at hand. */
  count: number;
  at: number;
  onAt: (n: number) => void;
  /** None where there is no room for another point. */
  onAdd: (() => void) | null;
  /** None where the point at hand has to stay. */
  onRemove: (() => void) | null;
  /** The point at hand, typed. */
  children: ReactNode;
}

/** What is done to the points of a curve without dragging them. */
export function PointTools({ count, at, onAt, onAdd, onRemove, children }: Props) {
  return (
    <>
      <Button size="sm" variant="outline-secondary" disabled={!onAdd} onClick={() => onAdd?.()}>
        Add a point
      </Button>
      <Button
        size="sm"
        variant="outline-secondary"
        disabled={!onRemove}
        onClick={() => onRemove?.()}
      >
        Remove point
      </Button>
      {at < count && (
        <span className="typed-point" role="group" aria-label={`Point ${at + 1}, typed`}>
          <select
            className="form-select form-select-sm"
            aria-label="Selected point"
            value={at}
            onChange={(event) => onAt(Number(event.target.value))}
          >
            {Array.from({ length: count }, (_, n) => (
              <option key={n} value={n}>
                {n + 1}
              </option>
            ))}
          </select>
          {children}
        </span>
      )}
    </>
  );
}
