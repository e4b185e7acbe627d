/** A mod as the solver sees it: it is left out, or one of its options is in. */
export interface SolverMod {
  readonly options: readonly SolverOption[];
}

/** What a mod is worth in one question. */
export interface Worth {
  /** That the mod is in, whichever option; 0 for one that nobody asked for. */
  readonly value: number;
  /**
   * For each option: decides between sets of equal value, the larger sum is better. Not below 0 where the value is above,
   * and below 0 for what nobody asked for.
   */
  readonly ties: readonly number[];
  /** The options that may be in at all, as bits. */
  readonly allowed: number;
}

/** Options of one mod, as bits by their places. */
export interface OptionSet {
  readonly mod: number;
  readonly mask: number;
}

export interface SolverOption {
  /** Each of these needs at least one of its alternatives to be in. */
  readonly needs: readonly (readonly OptionSet[])[];
  /** None of these may be in beside it. It is enough that one of two names the other. */
  readonly forbids: readonly OptionSet[];
}

export interface Solution {
  /** The option of each mod that is in. */
  readonly chosen: ReadonlyMap<number, number>;
  readonly value: number;
  readonly tie: number;
  /** Whether no set has more value: that is proven. */
  readonly exact: boolean;
  /** Whether of the sets of this value none has better ties: that is proven too. */
  readonly tieExact: boolean;
  /** How much more value a better set may have at the most; 0 where the set is proven to have the most. */
  readonly gap: number;
  readonly nodes: number;
}

/** As many options as fit into the bits of a number. */
export const MOST_OPTIONS = 30;

const OUT = 0;

/** The place of the highest bit. */
const lastBit = (mask: number): number => 31 - Math.clz32(mask);

interface User {
  readonly mod: number;
  readonly option: number;
  readonly need: readonly OptionSet[];
}

/**
 * Finds a set of options with the largest sum of values, and of those one with the largest sum of ties: at most one
 * option of a mod, every need of what is in met, nothing that is in forbidden. A depth-first search that propagates needs
 * and conflicts and bounds by what can still be in. What many need is decided first; when that is settled, most of the
 * others follow without a choice. The answer is the best there is unless the search was stopped by `maxNodes`, which
 * `gap` then says. One solver answers many questions about the same mods.
 */
export class Solver {
  /** The needs that speak of a mod. */
  readonly #users: User[][];
  /** For each option of a mod, what may not be in beside it, whoever of the two says so. */
  readonly #forbids: OptionSet[][][];
  /** Mods in the order in which they are decided. */
  #order: readonly number[];
  /** The options that a mod can still have in, as bits; none once it is out. */
  readonly #domain: Int32Array;
  /** Whether something that is in needs the mod. */
  readonly #wanted: Uint8Array;
  readonly #decided: Uint8Array;
  /** While a bound is worked out: the mods whose being in made a mod what it is now, as bits. */
  readonly #roots: (Uint32Array | undefined)[];
  /** While a bound is worked out: the mods that cannot all be in. */
  #core: Uint32Array | undefined;
  #bounding = false;
  #worths: readonly Worth[] = [];
  #value = 0;
  #tie = 0;
  #trail: { mod: number; domain: number; wanted: number; decided: number; roots: Uint32Array | undefined }[] = [];
  readonly #queue: number[] = [];
  #best: { domain: Int32Array; value: number; tie: number } | undefined;
  #nodes = 0;
  #maxNodes = 0;
  #forTies = false;
  #stopped = false;

  constructor(private readonly mods: readonly SolverMod[]) {
    this.#users = mods.map(() => []);
    this.#forbids = mods.map(({ options }) => options.map(() => []));
    mods.forEach(({ options }, mod) => {
      options.forEach(({ needs, forbids }, option) => {
        for (const need of needs) for (const other of need) this.#users[other.mod]!.push({ mod, option, need });
        for (const other of forbids) {
          this.#forbids[mod]![option]!.push(other);
          for (let bit = 0; bit < mods[other.mod]!.options.length; bit++) {
            if (other.mask & (1 << bit)) this.#forbids[other.mod]![bit]!.push({ mod, mask: 1 << option });
          }
        }
      });
    });
    this.#order = [...mods.keys()];
    this.#domain = new Int32Array(mods.length);
    this.#wanted = new Uint8Array(mods.length);
    this.#decided = new Uint8Array(mods.length);
    this.#roots = mods.map(() => undefined);
  }

  /**
   * The best value is found and proven first; then, for as long as `tieNodes` last, the best ties among its sets.
   * @param worths one for each mod
   */
  solve(worths: readonly Worth[], maxNodes = 1500, tieNodes = 150): Solution {
    this.#worths = worths;
    this.#value = this.#tie = this.#nodes = 0;
    this.#trail = [];
    this.#queue.length = 0;
    this.#best = undefined;
    this.#wanted.fill(0);
    this.#decided.fill(0);
    worths.forEach(({ allowed }, mod) => {
      this.#domain[mod] = allowed;
      this.#count(mod, 1);
    });
    // Nothing is in yet, so there is nothing that could fail.
    for (const mod of worths.keys()) this.#check(mod);
    this.#propagate();
    const most = this.#value;
    this.#order = this.#orderBy((mod) => worths[mod]!.value);
    const { left } = this.#losses(Infinity);
    // Those that are not given up by what was found to be lost are the ones to try first.
    this.#order = this.#orderBy((mod) => left[mod]!);
    const exact = this.#run(maxNodes, false);
    const tieExact = exact && this.#run(this.#nodes + tieNodes, true);
    const best = this.#best ?? { domain: new Int32Array(this.mods.length), value: 0, tie: 0 };
    const chosen = new Map<number, number>();
    best.domain.forEach((mask, mod) => mask !== OUT && chosen.set(mod, lastBit(mask)));
    const gap = exact ? 0 : Math.max(0, most - this.#losses(most - best.value).loss - best.value);
    return { chosen, value: best.value, tie: best.tie, exact, tieExact, gap, nodes: this.#nodes };
  }

  /** What many need first, then what weighs most. */
  #orderBy(weight: (mod: number) => number): number[] {
    const rank = (mod: number): number => this.#users[mod]!.length;
    return [...this.mods.keys()].sort((a, b) => rank(b) - rank(a) || weight(b) - weight(a) || a - b);
  }

  /** @returns whether the search came to its end */
  #run(maxNodes: number, forTies: boolean): boolean {
    this.#maxNodes = maxNodes;
    this.#stopped = false;
    this.#forTies = forTies;
    this.#search(0);
    return !this.#stopped;
  }

  /** Adds what a mod can still bring to the bound, or takes it away. */
  #count(mod: number, sign: 1 | -1): void {
    const domain = this.#domain[mod]!;
    if (domain === OUT) return;
    const { value, ties } = this.#worths[mod]!;
    let tie = -Infinity;
    for (let left = domain; left !== 0; left &= left - 1) tie = Math.max(tie, ties[lastBit(left & -left)]!);
    // What nobody asked for may stay out as long as nothing needs it.
    const maySkip = value === 0 && !this.#wanted[mod] && !this.#decided[mod];
    this.#value += sign * value;
    this.#tie += sign * (maySkip ? Math.max(0, tie) : tie);
  }

  #change(mod: number, domain: number, wanted: number, decided: number): void {
    this.#trail.push({
      mod,
      domain: this.#domain[mod]!,
      wanted: this.#wanted[mod]!,
      decided: this.#decided[mod]!,
      roots: this.#roots[mod],
    });
    this.#count(mod, -1);
    this.#domain[mod] = domain;
    this.#wanted[mod] = wanted;
    this.#decided[mod] = decided;
    this.#count(mod, 1);
    this.#queue.push(mod);
  }

  #undoTo(length: number): void {
    while (this.#trail.length > length) {
      const { mod, domain, wanted, decided, roots } = this.#trail.pop()!;
      this.#roots[mod] = roots;
      this.#count(mod, -1);
      this.#domain[mod] = domain;
      this.#wanted[mod] = wanted;
      this.#decided[mod] = decided;
      this.#count(mod, 1);
    }
    this.#queue.length = 0;
  }

  #isIn(mod: number): boolean {
    return (this.#wanted[mod] === 1 || this.#decided[mod] === 1) && this.#domain[mod] !== OUT;
  }

  #may({ mod, mask }: OptionSet): boolean {
    return (this.#domain[mod]! & mask) !== OUT;
  }

  /**
   * Takes away the options of a mod that cannot be in.
   * @param because the mods that make it so
   * @returns false where something that is in needs what is gone
   */
  #narrow(mod: number, mask: number, because: readonly number[]): boolean {
    const domain = this.#domain[mod]! & mask;
    if (domain === this.#domain[mod]) return true;
    if (domain === OUT && this.#isIn(mod)) {
      this.#blame([mod, ...because]);
      return false;
    }
    this.#change(mod, domain, this.#wanted[mod]!, this.#decided[mod]!);
    this.#trace(mod, because);
    return true;
  }

  /** Notes, while a bound is worked out, that these mods have to do with what a mod is now. */
  #trace(mod: number, because: readonly number[]): void {
    if (this.#bounding) this.#roots[mod] = this.#rootsOf([mod, ...because]);
  }

  #blame(mods: readonly number[]): void {
    if (this.#bounding) this.#core = this.#rootsOf(mods);
  }

  #rootsOf(mods: readonly number[]): Uint32Array {
    const all = new Uint32Array((this.mods.length + 31) >> 5);
    for (const mod of mods) this.#roots[mod]?.forEach((word, i) => (all[i]! |= word));
    return all;
  }

  /** Options of a mod whose needs cannot be met go; of a mod that is in, what its last option needs has to be in. */
  #check(mod: number): boolean {
    const { options } = this.mods[mod]!;
    const domain = this.#domain[mod]!;
    let left = domain;
    const because: number[] = [];
    for (let open = domain; open !== 0; open &= open - 1) {
      const bit = lastBit(open & -open);
      const unmet = options[bit]!.needs.find((need) => !need.some((other) => this.#may(other)));
      if (!unmet) continue;
      left &= ~(1 << bit);
      if (this.#bounding) because.push(...unmet.map((other) => other.mod));
    }
    if (!this.#narrow(mod, left, because)) return false;
    if (!this.#isIn(mod) || (left & (left - 1)) !== 0) return true;
    const last = lastBit(left);
    return (
      options[last]!.needs.every((need) => this.#demand(mod, need)) &&
      this.#forbids[mod]![last]!.every((other) => this.#narrow(other.mod, ~other.mask, [mod]))
    );
  }

  /** Of a need of a mod that is in, the only alternative that is left has to be in. */
  #demand(by: number, need: readonly OptionSet[]): boolean {
    const [only, ...more] = need.filter((other) => this.#may(other));
    const because = this.#bounding ? [by, ...need.map((other) => other.mod)] : [];
    if (!only) {
      this.#blame(because);
      return false;
    }
    if (more.length > 0) return true;
    const { mod, mask } = only;
    const domain = this.#domain[mod]! & mask;
    if (domain === this.#domain[mod] && this.#isIn(mod)) return true;
    this.#change(mod, domain, 1, this.#decided[mod]!);
    this.#trace(mod, because);
    return true;
  }

  #propagate(): boolean {
    for (let mod = this.#queue.pop(); mod !== undefined; mod = this.#queue.pop()) {
      if (!this.#check(mod)) return false;
      for (const user of this.#users[mod]!) {
        if (this.#domain[user.mod]! & (1 << user.option) && !this.#check(user.mod)) return false;
      }
    }
    return true;
  }

  /**
   * Value that has to be given up besides what is out already: mods that cannot all be in are found by assuming one after
   * the other to be in, until that fails; the least of their values is lost, and the rest of it counts on. After "inconsistent
   * subformulae found by unit propagation" (C. M. Li, F. Manyà, J. Planes, New Inference Rules for Max-SAT, 2007).
   * @param enough more than this need not be found
   * @returns also what is left of each mod's value
   */
  #losses(enough: number): { loss: number; left: Float64Array } {
    const left = new Float64Array(this.mods.length);
    const assumed = this.#order.filter((mod) => {
      const counts = !this.#decided[mod] && this.#domain[mod] !== OUT;
      if (counts) left[mod] = this.#worths[mod]!.value;
      return left[mod]! > 0;
    });
    /** How long the trail was before each assumption, so that the ones before a failure need not be made anew. */
    const marks: number[] = [];
    const start = this.#trail.length;
    let loss = 0;
    this.#bounding = true;
    for (let place = 0; place < assumed.length && loss < enough;) {
      const mod = assumed[place]!;
      marks[place] = this.#trail.length;
      if (left[mod] === 0 || this.#assume(mod)) {
        place += 1;
        continue;
      }
      const core = assumed.filter((one) => left[one]! > 0 && this.#core![one >> 5]! & (1 << (one & 31)));
      // What fails whatever is assumed: no set at all is left here.
      if (core.length === 0) {
        loss = Infinity;
        break;
      }
      const least = Math.min(...core.map((one) => left[one]!));
      loss += least;
      core.forEach((one) => (left[one]! -= least));
      // Those of which nothing is left are no longer assumed, nor is what followed on the first of them.
      place = assumed.findIndex((one) => left[one] === 0 && core.includes(one));
      this.#undoTo(marks[place]!);
    }
    this.#undoTo(start);
    this.#bounding = false;
    return { loss, left };
  }

  /** Takes a mod to be in. @returns false, and the core, where that cannot be beside what was assumed before */
  #assume(mod: number): boolean {
    const roots = this.#rootsOf([mod]);
    roots[mod >> 5]! |= 1 << (mod & 31);
    if (this.#domain[mod] === OUT) {
      this.#core = roots;
      return false;
    }
    if (!this.#isIn(mod)) this.#change(mod, this.#domain[mod]!, 1, this.#decided[mod]!);
    this.#roots[mod] = roots;
    this.#core = roots;
    return this.#propagate();
  }

  #isWorse(): boolean {
    const best = this.#best;
    if (best === undefined || this.#value > best.value) return false;
    return this.#value < best.value || !this.#forTies || this.#tie <= best.tie;
  }

  /** Whether one of the alternatives is in for good. */
  #isMet(need: readonly OptionSet[]): boolean {
    return need.some(({ mod, mask }) => {
      const domain = this.#domain[mod]!;
      return this.#decided[mod] === 1 && domain !== OUT && (domain & mask) === domain;
    });
  }

  /** Whether an option can be taken without giving anything up: its needs are met, and it stands in nobody's way. */
  #isFree(mod: number, option: number): boolean {
    return (
      this.#users[mod]!.length === 0 &&
      this.mods[mod]!.options[option]!.needs.every((need) => this.#isMet(need)) &&
      this.#forbids[mod]![option]!.every((other) => !this.#may(other))
    );
  }

  /** Whether something that is in, or may still be, has a need that the mod could meet and nothing meets yet. */
  #mayBeNeeded(mod: number): boolean {
    return this.#users[mod]!.some(
      (user) => (this.#domain[user.mod]! & (1 << user.option)) !== OUT && !this.#isMet(user.need),
    );
  }

  #nextPlace(from: number): number {
    let place = from;
    for (; place < this.#order.length; place++) {
      const mod = this.#order[place]!;
      if (!this.#decided[mod] && this.#domain[mod] !== OUT) break;
    }
    return place;
  }

  #search(from: number): void {
    if (this.#nodes >= this.#maxNodes) {
      this.#stopped = true;
      return;
    }
    this.#nodes += 1;
    const place = this.#nextPlace(from);
    const mod = this.#order[place];
    if (mod === undefined) {
      if (!this.#isWorse()) this.#best = { domain: this.#domain.slice(), value: this.#value, tie: this.#tie };
      return;
    }
    if (this.#best) {
      const spare = this.#value - this.#best.value;
      const loss = spare > 0 || this.#forTies ? this.#losses(spare + 1).loss : 0;
      if (loss > spare || (loss === spare && (!this.#forTies || this.#tie <= this.#best.tie))) return;
    }
    const { value, ties } = this.#worths[mod]!;
    const bits: number[] = [];
    for (let left = this.#domain[mod]!; left !== 0; left &= left - 1) bits.push(lastBit(left & -left));
    bits.sort((a, b) => ties[b]! - ties[a]! || b - a);
    const wanted = this.#wanted[mod]!;
    const mark = this.#trail.length;
    const attempt = (domain: number): void => {
      if (this.#stopped) return;
      this.#change(mod, domain, wanted, 1);
      if (this.#propagate() && !this.#isWorse()) this.#search(place + 1);
      this.#undoTo(mark);
    };
    // What nobody asked for and nothing can need any more is better left out.
    if (value === 0 && !wanted && !this.#mayBeNeeded(mod)) return attempt(OUT);
    if (value > 0 && this.#isFree(mod, bits[0]!)) return attempt(1 << bits[0]!);
    for (const bit of bits) attempt(1 << bit);
    if (!wanted) attempt(OUT);
  }
}
