import { handing } from './handing';

/** A file that is handed over to the page that reads such. */
export interface HandedText {
  readonly name: string;
  readonly bytes: Uint8Array;
}

export const { hand: handTextOver, read: readHandedTexts } = handing<HandedText>();
