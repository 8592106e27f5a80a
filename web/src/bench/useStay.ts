import { useEffect, useRef, type RefObject } from "react";

/** Where the keyboard stays when what was pressed is gone, or cannot be pressed, at another stage. */
export function useStay<E extends HTMLElement>(stage: string): RefObject<E | null> {
  const box = useRef<E>(null);
  const was = useRef(stage);
  useEffect(() => {
    if (was.current !== stage && document.activeElement === document.body) box.current?.focus();
    was.current = stage;
  }, [stage]);
  return box;
}
