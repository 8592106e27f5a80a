export type Theme = "system" | "dark" | "light";

const KEY = "juglant-theme";

export function storedTheme(): Theme {
  const stored = localStorage.getItem(KEY);
  return stored === "light" || stored === "system" ? stored : "dark";
}

/** Dark for dim studios unless the user or, on request, the system says otherwise. */
export function applyTheme(chosen: Theme = storedTheme()): void {
  localStorage.setItem(KEY, chosen);
  const light =
    chosen === "light" ||
    (chosen === "system" && window.matchMedia("(prefers-color-scheme: light)").matches);
  document.documentElement.dataset.bsTheme = light ? "light" : "dark";
}
