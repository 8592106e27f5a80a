import type { Control } from "../api/client";

/** Places on a slider, from 0 to 1, for values between the limits of a control. */
export function placeOf(control: Control, value: number): number {
  const { low, high, scale } = control;
  const place =
    scale === "log" ? Math.log(value / low) / Math.log(high / low) : (value - low) / (high - low);
  return Math.min(1, Math.max(0, place));
}

/** The value at a place, on the control's own step and inside its limits. */
export function valueAt(control: Control, place: number): number {
  const { low, high, scale } = control;
  const value = scale === "log" ? low * (high / low) ** place : low + place * (high - low);
  return onStep(control, value);
}

export function onStep(control: Control, value: number): number {
  // On a logarithmic slider three significant digits are as fine as a hand can be.
  const fine =
    control.scale === "log"
      ? Math.max(control.step, 10 ** (Math.floor(Math.log10(value)) - 2))
      : control.step;
  const stepped = Math.round(value / fine) * fine;
  return Number(Math.min(control.high, Math.max(control.low, stepped)).toFixed(6));
}

export function shownValue(control: Control, value: number): string {
  const decimals = Math.max(0, -Math.floor(Math.log10(control.step) + 1e-9));
  return minus(value, Math.min(decimals, 2));
}

/** With its sign, a real minus; what rounds to nothing has neither. */
export function signed(value: number, digits: number): string {
  const shown = Math.abs(value).toFixed(digits);
  if (Number(shown) === 0) return `±${shown}`;
  return (value < 0 ? "−" : "+") + shown;
}

export const cents = (value: number) => `${signed(value, Math.abs(value) < 10 ? 1 : 0)} ¢`;
export const semitones = (value: number) => `${signed(value, 2)} st`;

/** Without a plus, but with a real minus unless it rounds to nothing. */
const minus = (value: number, digits: number) => signed(value, digits).replace(/^[+±]/, "");
export const decibels = (value: number, digits = 1) => `${minus(value, digits)} dB`;
export const millis = (value: number, digits = 0) => `${minus(value, digits)} ms`;
export const percent = (share: number) => `${Math.round(100 * share)} %`;
/** A number that may not exist; the reason is shown elsewhere. */
export const maybe = (value: number | null, show: (value: number) => string) =>
  value === null ? "–" : show(value);

/** A wave as it is drawn, from the lowest and highest samples of its columns. */
export const outlineOf = (
  { lows, highs }: { lows: number[]; highs: number[] },
  step: number,
  y: (value: number) => number,
) =>
  highs.map((high, n) => `${n ? "L" : "M"}${n * step},${y(high)}`).join("") +
  lows
    .map((low, n) => `L${n * step},${y(low)}`)
    .reverse()
    .join("") +
  "Z";
