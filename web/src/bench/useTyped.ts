import { useLayoutEffect, useRef, useState, type ChangeEvent, type KeyboardEvent } from "react";

/**
 * What a field needs whose number is typed: it is taken when the field is left or Enter is pressed, and
 * Escape gives it up. `resting` is shown until then, `shown` is what typing replaces.
 */
export function useTyped(shown: string, resting: string, onNumber: (value: number) => void) {
  const ref = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | null>(null);
  // Only now is the number there that typing is to replace: what rests gives way to it.
  const typing = typed !== null;
  useLayoutEffect(() => {
    if (typing) ref.current?.select();
  }, [typing]);
  const field = {
    ref,
    type: "text",
    inputMode: "decimal" as const,
    value: typed ?? resting,
    onFocus: () => setTyped(shown),
    onChange: (event: ChangeEvent<HTMLInputElement>) => setTyped(event.target.value),
    onBlur: () => {
      const number = Number((typed ?? "").replace(",", ".").replace("−", "-"));
      if (typed !== null && typed.trim() !== "" && Number.isFinite(number)) onNumber(number);
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
  return { field, typing };
}
