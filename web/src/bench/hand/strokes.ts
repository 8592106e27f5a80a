/** What the keys Z, X and C strike. */
export const STROKES = [
  { letter: "z", name: "soft", velocity: 0.35 },
  { letter: "x", name: "medium", velocity: 0.7 },
  { letter: "c", name: "hard", velocity: 1 },
] as const;
