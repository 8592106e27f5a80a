import { ToggleButton as Plain, type ToggleButtonProps } from "react-bootstrap";

/** One of several, or on and off. Tab stops at its input alone: no key does anything on its label. */
export const ToggleButton = (props: ToggleButtonProps) => <Plain tabIndex={-1} {...props} />;
