import { useEffect, useRef } from "react";

export type Shortcuts = Record<string, () => void>;

const writes = (element: Element | null) =>
  element instanceof HTMLTextAreaElement ||
  // In an open list letters look for an entry; a closed one gives them up.
  (element instanceof HTMLSelectElement && element.matches(":open")) ||
  (element instanceof HTMLInputElement && !["range", "checkbox", "radio"].includes(element.type));

/** A button reached by keyboard keeps its own space bar; one clicked with the mouse does not. */
const keepsSpace = (element: Element | null) =>
  element instanceof HTMLElement &&
  element.matches("button, select, [role=button], summary, [type=checkbox]") &&
  element.matches(":focus-visible");

/** Keys as in the list behind "?": single letters, or "mod+z" and "mod+shift+z". */
export function useShortcuts(shortcuts: Shortcuts): void {
  const current = useRef(shortcuts);
  useEffect(() => {
    current.current = shortcuts;
  });
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const focus = document.activeElement;
      const mod = event.ctrlKey || event.metaKey;
      if (event.altKey || event.defaultPrevented || (writes(focus) && !mod)) return;
      // Behind a panel nothing happens.
      if (document.querySelector("[aria-modal=true]")) return;
      if (event.key === " " && keepsSpace(focus)) return;
      const name =
        (mod ? "mod+" : "") + (mod && event.shiftKey ? "shift+" : "") + event.key.toLowerCase();
      const action = current.current[name];
      // Undo inside a text field is the field's own.
      if (!action || (writes(focus) && name.endsWith("z"))) return;
      event.preventDefault();
      action();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
