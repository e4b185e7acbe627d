/** A browser begins to read what is saved a while after it was asked to, and a large file takes it longer. */
const READ_BY_MS = 10 * 60_000;

/** Hands bytes to the person as a file. */
export function saveBlob(name: string, blob: Blob): void {
  const link = document.createElement('a');
  const address = URL.createObjectURL(blob);
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), READ_BY_MS);
}

/** Hands a text to the person as a file. */
export function saveFile(name: string, text: string, type: string): void {
  saveBlob(name, new Blob([text], { type }));
}
