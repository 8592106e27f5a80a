/** What the keys Z, X and C strike. */
export const STROKES = [
  { letter: "z", name: "soft", strength: 0.35 },
  { letter: "x", name: "medium", strength: 0.7 },
  { letter: "c", name: "hard", strength: 1 },
] as const;
