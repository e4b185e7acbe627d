/** A way from wherever something is dropped to the page that reads such. */
export interface Handing<T> {
  /** Hands something to the page that reads such; where none is open yet, to the next one. */
  readonly hand: (one: T) => void;
  /** Reads each thing that is handed over, first the one that waits. @returns ends it */
  readonly read: (heard: (one: T) => void) => () => void;
}

export function handing<T>(): Handing<T> {
  let waiting: T | undefined;
  let reader: ((one: T) => void) | undefined;
  return {
    hand(one) {
      if (reader) reader(one);
      else waiting = one;
    },
    read(heard) {
      reader = heard;
      if (waiting !== undefined) heard(waiting);
      waiting = undefined;
      return () => void (reader = undefined);
    },
  };
}
