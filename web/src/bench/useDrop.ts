import { useEffect, useState } from "react";

/** More than these of one folder are for the stock, and not for a track. */
const MOST_FILES = 200;
const SOUND = /\.(wav|wave|flac|aiff?|aifc|mp3|ogg|oga|caf|mid|midi|zip)$/i;

const fileOf = (entry: FileSystemFileEntry) =>
  new Promise<File>((resolve, reject) => entry.file(resolve, reject));

/** A folder's sounds, with those of the folders in it. */
async function inside(folder: FileSystemDirectoryEntry): Promise<File[]> {
  const reader = folder.createReader();
  const found: File[] = [];
  // A reader gives its entries in portions, until there are none.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (some.length === 0 || found.length >= MOST_FILES) return found.slice(0, MOST_FILES);
    for (const entry of some) {
      if (entry.isDirectory) found.push(...(await inside(entry as FileSystemDirectoryEntry)));
      else if (SOUND.test(entry.name)) found.push(await fileOf(entry as FileSystemFileEntry));
    }
  }
}

/** What was dropped: files, and the sounds of folders. */
async function filesOf(carried: DataTransfer): Promise<File[]> {
  // Entries are there only until the event is over; files of a plain list last.
  const plain = [...carried.files];
  const entries = [...carried.items].map((item) => item.webkitGetAsEntry());
  const folders = entries.filter((entry) => entry?.isDirectory);
  if (folders.length === 0) return plain;
  const found = await Promise.all(
    entries.map((entry, n) =>
      entry?.isDirectory
        ? inside(entry as FileSystemDirectoryEntry)
        : Promise.resolve(plain[n] ? [plain[n]] : []),
    ),
  );
  return found.flat();
}

/** Files dropped anywhere on the page; true while one hovers over it. */
export function useDrop(onFiles: (files: File[]) => void): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const carries = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const hover = (event: DragEvent) => {
      if (!carries(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (!event.relatedTarget) setOver(false);
    };
    const drop = (event: DragEvent) => {
      if (!carries(event)) return;
      event.preventDefault();
      setOver(false);
      if (event.dataTransfer)
        void filesOf(event.dataTransfer).then((files) => {
          if (files.length > 0) onFiles(files);
        });
    };
    window.addEventListener("dragover", hover);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", hover);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, [onFiles]);
  return over;
}
