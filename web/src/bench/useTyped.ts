import { useLayoutEffect, useRef, useState, type ChangeEvent, type KeyboardEvent } from "react";
import { api } from "../api/client";
import { useDesk } from "../track/context";

const PLAIN = /^[-−+]?(\d+([.,]\d*)?|[.,]\d+)$/;

interface Range {
  unit: string;
  low: number;
  high: number;
}

/**
 * What a field needs whose value is typed: it is taken when the field is left or Enter is pressed, and Escape gives
 * it up. `resting` is shown until then, `shown` is what typing replaces. Units, note values and notes are
 * understood; `wrong` says why something is not taken.
 */
export function useTyped(
  shown: string,
  resting: string,
  { unit, low, high }: Range,
  onNumber: (value: number) => void,
) {
  const { shown: state } = useDesk();
  const ref = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  // Only now is the number there that typing is to replace: what rests gives way to it.
  const typing = typed !== null;
  useLayoutEffect(() => {
    if (typing) ref.current?.select();
  }, [typing]);
  const take = (text: string) => {
    const number = Number(text.replace(",", ".").replace("−", "-"));
    if (PLAIN.test(text) && number >= low && number <= high) {
      onNumber(number);
      return;
    }
    const { bpm, a4_hz } = state.brief;
    api
      .typed({ text, unit, low, high, bpm, a4_hz })
      .then(onNumber)
      .catch((error: Error) => setWrong(error.message));
  };
  const field = {
    ref,
    type: "text",
    value: typed ?? resting,
    "aria-invalid": wrong !== null,
    onFocus: () => {
      setWrong(null);
      setTyped(shown);
    },
    onChange: (event: ChangeEvent<HTMLInputElement>) => setTyped(event.target.value),
    onBlur: () => {
      const text = (typed ?? "").trim();
      if (text !== "" && text !== shown) take(text);
      setTyped(null);
    },
    onKeyDown: (event: KeyboardEvent<HTMLInputElement>) => {
      if (event.key === "Enter") event.currentTarget.blur();
      if (event.key === "Escape") {
        setTyped(null);
        event.stopPropagation();
      }
    },
  };
  return { field, typing, wrong };
}
