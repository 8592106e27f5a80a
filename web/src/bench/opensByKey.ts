import type { KeyboardEvent } from "react";

/** A list that does something at once is opened by a letter or an arrow: closed, every key would do it. */
export function opensByKey(event: KeyboardEvent<HTMLSelectElement>): void {
  const letter = event.key.length === 1 && event.key !== " ";
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (!letter && !event.key.startsWith("Arrow")) return;
  event.preventDefault();
  event.currentTarget.showPicker();
}
