import type { OpenFile } from '#core/folders';

/** A blob as an open file. */
export function openBlob(blob: Blob): OpenFile {
  return {
    size: blob.size,
    async read(start, end) {
      // A slice is a thing of its own to the browser, which costs: a file that is wanted whole is read as it is.
      const whole = start === 0 && end >= blob.size;
      return new Uint8Array(await (whole ? blob : blob.slice(start, end)).arrayBuffer());
    },
    close: () => undefined,
  };
}
