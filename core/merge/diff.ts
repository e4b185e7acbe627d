/*
 * What differs between two sequences of lines: the greedy search of E. W. Myers, "An O(ND) Difference Algorithm and Its Variations"
 * (1986), from both ends at once, halving the problem at the middle of the path (section 4b). Its cost is capped: where two parts have
 * little in common the furthest point that was reached stands for the middle, so that the whole stays near linear.
 */

/** Lines `[from, from + removed)` of one sequence stand for `[to, to + added)` of the other. */
export interface Change {
  readonly from: number;
  readonly removed: number;
  readonly to: number;
  readonly added: number;
}

/** Steps of the search in one part, at the least, before a good point is good enough. */
const LEAST_COST = 256;

/** One of the two sequences: ids of its lines, and which of them are not in the other one. */
class Side {
  /** With one place more at the end, which is never set. */
  readonly changed: Uint8Array;

  constructor(readonly ids: Int32Array) {
    this.changed = new Uint8Array(ids.length + 1);
  }

  get length(): number {
    return this.ids.length;
  }
}

interface Split {
  readonly a: number;
  readonly b: number;
  /** Whether the part before, and the one behind, are on a shortest path. */
  readonly isExact: boolean;
}

/** Searches the middle of a path through parts of two sequences, remembering how far each diagonal has come. */
class MiddleSearch {
  readonly #forward: Int32Array;
  readonly #backward: Int32Array;
  readonly #shift: number;
  readonly #most: number;

  constructor(
    private readonly a: Int32Array,
    private readonly b: Int32Array,
  ) {
    const diagonals = a.length + b.length + 3;
    this.#forward = new Int32Array(diagonals);
    this.#backward = new Int32Array(diagonals);
    this.#shift = b.length + 1;
    this.#most = Math.max(LEAST_COST, Math.ceil(Math.sqrt(diagonals)));
  }

  /** Neither part is empty, and they differ in their first and in their last lines. */
  split(a0: number, a1: number, b0: number, b1: number): Split {
    const { a, b } = this;
    const [forward, backward, shift] = [this.#forward, this.#backward, this.#shift];
    const [lowest, highest] = [a0 - b1, a1 - b0];
    const [start, end] = [a0 - b0, a1 - b1];
    const isOdd = ((start - end) & 1) !== 0;
    let [fLow, fHigh, bLow, bHigh] = [start, start, end, end];
    forward[start + shift] = a0;
    backward[end + shift] = a1;
    for (let cost = 1; ; cost++) {
      if (fLow > lowest) forward[--fLow - 1 + shift] = -1;
      else fLow++;
      if (fHigh < highest) forward[++fHigh + 1 + shift] = -1;
      else fHigh--;
      for (let d = fHigh; d >= fLow; d -= 2) {
        const below = forward[d - 1 + shift]!;
        const above = forward[d + 1 + shift]!;
        let x = below >= above ? below + 1 : above;
        while (x < a1 && x - d < b1 && a[x] === b[x - d]) x++;
        forward[d + shift] = x;
        if (isOdd && bLow <= d && d <= bHigh && backward[d + shift]! <= x) return { a: x, b: x - d, isExact: true };
      }
      if (bLow > lowest) backward[--bLow - 1 + shift] = FAR;
      else bLow++;
      if (bHigh < highest) backward[++bHigh + 1 + shift] = FAR;
      else bHigh--;
      for (let d = bHigh; d >= bLow; d -= 2) {
        const below = backward[d - 1 + shift]!;
        const above = backward[d + 1 + shift]!;
        let x = below < above ? below : above - 1;
        while (x > a0 && x - d > b0 && a[x - 1] === b[x - d - 1]) x--;
        backward[d + shift] = x;
        if (!isOdd && fLow <= d && d <= fHigh && x <= forward[d + shift]!) return { a: x, b: x - d, isExact: true };
      }
      if (cost >= this.#most) return this.#furthest({ a0, a1, b0, b1 }, { fLow, fHigh, bLow, bHigh });
    }
  }

  /** The point furthest from its end that either search has come to. */
  #furthest(
    { a0, a1, b0, b1 }: Record<'a0' | 'a1' | 'b0' | 'b1', number>,
    { fLow, fHigh, bLow, bHigh }: Record<'fLow' | 'fHigh' | 'bLow' | 'bHigh', number>,
  ): Split {
    let ahead = { a: a0, b: b0 };
    for (let d = fHigh; d >= fLow; d -= 2) {
      const x = Math.min(this.#forward[d + this.#shift]!, a1, b1 + d);
      if (x + x - d > ahead.a + ahead.b) ahead = { a: x, b: x - d };
    }
    let behind = { a: a1, b: b1 };
    for (let d = bHigh; d >= bLow; d -= 2) {
      const x = Math.max(this.#backward[d + this.#shift]!, a0, b0 + d);
      if (x + x - d < behind.a + behind.b) behind = { a: x, b: x - d };
    }
    const isAhead = ahead.a + ahead.b - a0 - b0 > a1 + b1 - behind.a - behind.b;
    return { ...(isAhead ? ahead : behind), isExact: false };
  }
}

const FAR = 0x7fffffff;

/** Marks what differs. Lines that the other side has nowhere are marked beforehand, and searched past. */
function mark(a: Side, b: Side): void {
  const inA = new Set(a.ids);
  const inB = new Set(b.ids);
  const shared = (side: Side, other: ReadonlySet<number>): Int32Array => {
    const places = new Int32Array(side.length);
    let count = 0;
    for (let i = 0; i < side.length; i++) {
      if (other.has(side.ids[i]!)) places[count++] = i;
      else side.changed[i] = 1;
    }
    return places.subarray(0, count);
  };
  const [placesA, placesB] = [shared(a, inB), shared(b, inA)];
  const [idsA, idsB] = [placesA.map((i) => a.ids[i]!), placesB.map((i) => b.ids[i]!)];
  const search = new MiddleSearch(idsA, idsB);
  // A list of parts, not calls within calls: a path may turn as often as there are lines.
  const parts: [a0: number, a1: number, b0: number, b1: number][] = [[0, idsA.length, 0, idsB.length]];
  for (let part = parts.pop(); part; part = parts.pop()) {
    let [a0, a1, b0, b1] = part;
    while (a0 < a1 && b0 < b1 && idsA[a0] === idsB[b0]) [a0, b0] = [a0 + 1, b0 + 1];
    while (a0 < a1 && b0 < b1 && idsA[a1 - 1] === idsB[b1 - 1]) [a1, b1] = [a1 - 1, b1 - 1];
    if (a0 === a1) for (let i = b0; i < b1; i++) b.changed[placesB[i]!] = 1;
    else if (b0 === b1) for (let i = a0; i < a1; i++) a.changed[placesA[i]!] = 1;
    else {
      const middle = search.split(a0, a1, b0, b1);
      parts.push([a0, middle.a, b0, middle.b], [middle.a, a1, middle.b, b1]);
    }
  }
}

/** A run of changed lines, or the place between two that are not. */
class Run {
  start = 0;
  end = 0;

  constructor(private readonly side: Side) {
    this.#grow();
  }

  get isEmpty(): boolean {
    return this.start === this.end;
  }

  #grow(): void {
    while (this.side.changed[this.end]) this.end++;
  }

  next(): boolean {
    if (this.end === this.side.length) return false;
    this.start = this.end = this.end + 1;
    this.#grow();
    return true;
  }

  previous(): void {
    this.end = this.start - 1;
    this.start = this.end;
    while (this.start > 0 && this.side.changed[this.start - 1]) this.start--;
  }

  /** Moves it one line on, where the line behind it is as its first; what it meets becomes part of it. */
  slideDown(): boolean {
    const { ids, changed, length } = this.side;
    if (this.end >= length || ids[this.start] !== ids[this.end]) return false;
    changed[this.start++] = 0;
    changed[this.end++] = 1;
    this.#grow();
    return true;
  }

  slideUp(): boolean {
    const { ids, changed } = this.side;
    if (this.start === 0 || ids[this.start - 1] !== ids[this.end - 1]) return false;
    changed[--this.start] = 1;
    changed[--this.end] = 0;
    while (this.start > 0 && changed[this.start - 1]) this.start--;
    return true;
  }
}

/**
 * Of a run that may stand at several places, as a line that was doubled may be the first or the second, the one is taken where the other
 * side has changed as well; or else the last. So two people's like changes stand at like places.
 */
function settle(side: Side, other: Side): void {
  const [run, across] = [new Run(side), new Run(other)];
  do {
    if (run.isEmpty) continue;
    let size: number;
    let first: number;
    let matching: number | undefined;
    do {
      size = run.end - run.start;
      while (run.slideUp()) across.previous();
      first = run.end;
      matching = across.isEmpty ? undefined : run.end;
      while (run.slideDown()) {
        across.next();
        if (!across.isEmpty) matching = run.end;
      }
    } while (size !== run.end - run.start);
    if (run.end !== first && matching !== undefined)
      while (across.isEmpty) {
        run.slideUp();
        across.previous();
      }
  } while (run.next() && across.next());
}

/** What differs between two sequences, in their order. Lines are told apart by their numbers. */
export function changesBetween(idsA: Int32Array, idsB: Int32Array): Change[] {
  const [a, b] = [new Side(idsA), new Side(idsB)];
  mark(a, b);
  settle(a, b);
  settle(b, a);
  const changes: Change[] = [];
  for (let [i, j] = [0, 0]; i < a.length || j < b.length; i++, j++) {
    const [from, to] = [i, j];
    while (a.changed[i]) i++;
    while (b.changed[j]) j++;
    if (i > from || j > to) changes.push({ from, removed: i - from, to, added: j - to });
  }
  return changes;
}
