import { Button, ButtonGroup } from "react-bootstrap";

/** Nearer, farther, and back to what is seen anyway. */
export function ZoomButtons(props: {
  of: string;
  near: boolean;
  onStep: (nearer: boolean) => void;
  onReset: () => void;
}) {
  return (
    <ButtonGroup size="sm" aria-label={`Zoom of ${props.of}`} className="zoom-buttons">
      <Button
        variant="outline-secondary"
        aria-label="Zoom out"
        title="Zoom out (−)"
        onClick={() => props.onStep(false)}
      >
        −
      </Button>
      <Button
        variant="outline-secondary"
        aria-label="Zoom in"
        title="Zoom in (+)"
        onClick={() => props.onStep(true)}
      >
        +
      </Button>
      {props.near && (
        <Button
          variant="outline-secondary"
          aria-label="Show all"
          title="Show all (Home)"
          onClick={props.onReset}
        >
          fit
        </Button>
      )}
    </ButtonGroup>
  );
}
