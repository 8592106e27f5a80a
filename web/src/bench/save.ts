/** Lets the browser save what is at an address, under the name that it has there unless told otherwise. */
export function download(address: string, name = ""): void {
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
}

/** Hands a file to the browser's downloads. */
export function save(blob: Blob, name: string): void {
  const address = URL.createObjectURL(blob);
  download(address, name);
  window.setTimeout(() => URL.revokeObjectURL(address), 1000);
}
