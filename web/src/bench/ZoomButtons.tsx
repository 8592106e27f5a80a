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
        aria-label="Farther"
        title="Farther (−)"
        onClick={() => props.onStep(false)}
      >
        −
      </Button>
      <Button
        variant="outline-secondary"
        aria-label="Nearer"
        title="Nearer (+)"
        onClick={() => props.onStep(true)}
      >
        +
      </Button>
      {props.near && (
        <Button
          variant="outline-secondary"
          aria-label="As it was"
          title="As it was (Home)"
          onClick={props.onReset}
        >
          fit
        </Button>
      )}
    </ButtonGroup>
  );
}
