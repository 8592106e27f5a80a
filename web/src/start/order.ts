import type { ListedTrack } from "../api/client";

/** The tracks that were changed last come first. */
export const latestFirst = (tracks: ListedTrack[]) =>
  [...tracks].sort((a, b) => b.changed_at.localeCompare(a.changed_at));

export const byName = (tracks: ListedTrack[]) =>
  [...tracks].sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));

/** Those whose name has every word of a search in it. */
export const found = (tracks: ListedTrack[], search: string) => {
  const words = search.toLowerCase().split(/\s+/);
  return tracks.filter(({ name }) => words.every((word) => name.toLowerCase().includes(word)));
};

/** Bytes as people say them. */
export const weighs = (bytes: number) =>
  bytes < 1e6 ? `${Math.ceil(bytes / 1e3)} kB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
