import type { KeyboardEvent } from "react";

/** A list that does something at once is opened by an arrow: closed, every press would do it. */
export function opensByKey(event: KeyboardEvent<HTMLSelectElement>): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (!event.key.startsWith("Arrow")) return;
  event.preventDefault();
  event.currentTarget.showPicker();
}
