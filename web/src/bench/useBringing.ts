import { useCallback, useMemo, useState } from "react";
import { api, isTooLong, type ControlSheet, type ImportedAudio } from "../api/client";
import type { StepId } from "../steps/steps";
import { dropsAs, put, putMany, type Brought } from "../track/brought";
import type { TrackDesk } from "../track/useTrack";
import type { AtHand } from "./useAtHand";
import { useDrop } from "./useDrop";

export interface Bringing {
  /** Reads one file and puts it in its place. */
  bring: (file: File, as: Brought) => void;
  /** What a dropped file becomes; null for what the step is for. */
  setDropAs: (as: Brought | null) => void;
  /** What is said while a file is over the page; null while none is. */
  hovering: string | null;
  /** Several files that were read and wait to be told what they are. */
  several: ImportedAudio[];
  leave: () => void;
  trySeveral: () => void;
  putSeveral: (as: Parameters<typeof putMany>[0]) => void;
  /** Files of which a stretch is to be cut, the first one now. */
  long: TooLong[];
  cut: (stretch: ImportedAudio) => void;
  leaveLong: () => void;
}

/** A file that is longer or larger than what can be used; null becomes one of several. */
export interface TooLong {
  file: File;
  why: string;
  as: Brought | null;
}

const byName = (a: ImportedAudio, b: ImportedAudio) =>
  a.name.localeCompare(b.name, "en", { numeric: true });

/** Files that come into the track: chosen, or dropped on the page. */
export function useBringing(
  { state, change }: TrackDesk,
  controls: Record<string, ControlSheet>,
  step: StepId,
  { hit, layerAt, lineHere, isLine }: AtHand,
  say: (text: string) => void,
  tryThem: (files: ImportedAudio[]) => void,
): Bringing {
  const place = useMemo(
    () => ({ state, hitId: hit.id, layer: layerAt, lineId: lineHere }),
    [state, hit.id, layerAt, lineHere],
  );
  const [several, setSeveral] = useState<ImportedAudio[]>([]);
  const [long, setLong] = useState<TooLong[]>([]);
  const read = useCallback(
    async (files: File[], as: Brought | null) => {
      say(files.length === 1 ? `Reading ${files[0]?.name}…` : `Reading ${files.length} files…`);
      const found: ImportedAudio[] = [];
      const refused: string[] = [];
      for (const file of files)
        await api
          .importAudio(file)
          .then((one) => found.push(one))
          .catch((error: Error) => {
            if (!isTooLong(error)) refused.push(error.message);
            else setLong((others) => [...others, { file, why: error.message, as }]);
          });
      if (refused.length > 0) say(refused.join(" "));
      else if (found.length < files.length) say("A stretch of it can be cut.");
      else if (found.length > 1) say(`${found.length} files were read.`);
      return found;
    },
    [say],
  );
  const take = useCallback(
    (one: ImportedAudio, as: Brought) => {
      const { edit, told } = put(as, one, controls, place);
      change(edit);
      say(told);
    },
    [change, controls, place, say],
  );
  const bring = useCallback(
    (file: File, as: Brought) => {
      void read([file], as).then(([one]) => {
        if (one) take(one, as);
      });
    },
    [read, take],
  );
  const [wish, setDropAs] = useState<Brought | null>(null);
  const dropAs: Brought | null =
    wish ??
    (isLine || step === "duck" ? "bass" : step === "hits" || step === "line" ? "hit" : null);
  const over = useDrop(
    useCallback(
      (files: File[]) => {
        if (step === "stock") void read(files, null).then(tryThem);
        else if (dropAs === null)
          say("Nothing here takes a file: drop it on Hits, Line or Duck. Nothing was changed.");
        else if (files.length === 1) bring(files[0] as File, dropAs);
        else void read(files, null).then((found) => setSeveral(found.sort(byName)));
      },
      [bring, dropAs, read, say, step, tryThem],
    ),
  );
  return {
    bring,
    setDropAs,
    hovering: !over
      ? null
      : step === "stock"
        ? "Drop to try them in the loop"
        : dropAs
          ? dropsAs(dropAs, place)
          : "Nothing here takes a file",
    several,
    leave: () => setSeveral([]),
    putSeveral: (as) => {
      const { edit, told } = putMany(as, several, controls, place);
      change(edit);
      say(told);
      setSeveral([]);
    },
    trySeveral: () => {
      tryThem(several);
      setSeveral([]);
    },
    long,
    cut: (stretch) => {
      const as = long[0]?.as;
      if (as) take(stretch, as);
      else setSeveral((others) => [...others, stretch].sort(byName));
      setLong(long.slice(1));
    },
    leaveLong: () => setLong(long.slice(1)),
  };
}
