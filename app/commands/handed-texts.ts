/** A file that is handed over to the page that reads such. */
export interface HandedText {
  readonly name: string;
  readonly bytes: Uint8Array;
}

let waiting: HandedText | undefined;
let reader: ((text: HandedText) => void) | undefined;

/** Hands a text to the page that reads such; where none is open yet, to the next one. */
export function handTextOver(text: HandedText): void {
  if (reader) reader(text);
  else waiting = text;
}

/** Reads each text that is handed over, first the one that waits. @returns ends it */
export function readHandedTexts(read: (text: HandedText) => void): () => void {
  reader = read;
  if (waiting) read(waiting);
  waiting = undefined;
  return () => void (reader = undefined);
}
