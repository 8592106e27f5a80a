import { useEffect, useRef } from "react";
import { tinykeys } from "tinykeys";

export type Shortcuts = Record<string, (event: KeyboardEvent) => void>;

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

/** Whether keys are commands now: no text is being typed, and no panel is open before the page. */
const listens = (event: KeyboardEvent) =>
  !event.altKey &&
  !event.defaultPrevented &&
  !document.querySelector("[aria-modal=true]") &&
  (!writes(document.activeElement) || event.ctrlKey || event.metaKey);

/** Letters that are held like the keys of an instrument: down once, and up. */
export function useHeldKeys(letters: string[], down: (n: number) => void, up: (n: number) => void) {
  const current = useRef({ letters, down, up });
  useEffect(() => {
    current.current = { letters, down, up };
  });
  useEffect(() => {
    const held = new Set<number>();
    const press = (event: KeyboardEvent) => {
      const n = current.current.letters.indexOf(event.key.toLowerCase());
      if (n < 0 || event.ctrlKey || event.metaKey || !listens(event)) return;
      event.preventDefault();
      if (held.has(n)) return;
      held.add(n);
      current.current.down(n);
    };
    const lift = (event: KeyboardEvent) => {
      const n = current.current.letters.indexOf(event.key.toLowerCase());
      if (held.delete(n)) current.current.up(n);
    };
    window.addEventListener("keydown", press);
    window.addEventListener("keyup", lift);
    return () => {
      window.removeEventListener("keydown", press);
      window.removeEventListener("keyup", lift);
    };
  }, []);
}

/** As the library writes it: a letter or sign whatever Shift does to it, unless it is asked for. */
const bindingOf = (name: string) =>
  name.startsWith("mod+")
    ? name.replace("mod", "$mod").replace("shift", "Shift")
    : `[Shift]+${name === " " ? "Space" : name}`;

/** Keys as in the list behind "?": single letters, or "mod+z" and "mod+shift+z". */
export function useShortcuts(shortcuts: Shortcuts): void {
  const current = useRef(shortcuts);
  useEffect(() => {
    current.current = shortcuts;
  });
  const names = Object.keys(shortcuts).join("\n");
  useEffect(() => {
    const pressed = (name: string) => (event: KeyboardEvent) => {
      const focus = document.activeElement;
      if (name === " " && keepsSpace(focus)) return;
      // Undo inside a text field is the field's own.
      if (writes(focus) && name.endsWith("z")) return;
      event.preventDefault();
      current.current[name]?.(event);
    };
    return tinykeys(
      window,
      Object.fromEntries(
        names
          .split("\n")
          .filter(Boolean)
          .map((name) => [bindingOf(name), pressed(name)]),
      ),
      { ignore: (event) => !listens(event) },
    );
  }, [names]);
}
