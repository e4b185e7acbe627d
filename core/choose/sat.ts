/** A variable (`2 * v`) or its negation (`2 * v + 1`). */
export type Literal = number;

export const not = (literal: Literal): Literal => literal ^ 1;

interface Clause {
  readonly literals: Literal[];
  readonly learnt: boolean;
  /** Learnt clauses that took part in few conflicts of late are dropped. */
  activity: number;
  dropped: boolean;
}

/** A clause watches two of its literals; while another one, the blocker, holds, nothing has to be looked at. */
interface Watch {
  readonly clause: Clause;
  blocker: Literal;
}

const DECAY = 0.95;
const CLAUSE_DECAY = 0.999;
const RESCALE = 1e100;
const RESTART_BASE = 64;
const LEARNT_START = 2000;

/** 1, 1, 2, 1, 1, 2, 4, … (M. Luby, A. Sinclair, D. Zuckerman, Optimal speedup of Las Vegas algorithms, 1993) */
function luby(index: number): number {
  let [size, power] = [1, 0];
  while (size < index + 1) [size, power] = [2 * size + 1, power + 1];
  let left = index;
  while (size - 1 !== left) [size, power, left] = [(size - 1) / 2, power - 1, left % ((size - 1) / 2)];
  return 2 ** power;
}

/** Variables by their activity, the most active first: a binary heap. */
class ActivityHeap {
  readonly #heap: number[] = [];
  readonly #place: number[] = [];

  constructor(private readonly activity: readonly number[]) {}

  #put(variable: number, place: number): void {
    this.#heap[place] = variable;
    this.#place[variable] = place;
  }

  #up(start: number): void {
    let place = start;
    const variable = this.#heap[place]!;
    while (place > 0) {
      const parent = (place - 1) >> 1;
      if (this.activity[this.#heap[parent]!]! >= this.activity[variable]!) break;
      this.#put(this.#heap[parent]!, place);
      place = parent;
    }
    this.#put(variable, place);
  }

  #down(start: number): void {
    let place = start;
    const variable = this.#heap[place]!;
    for (let child = 2 * place + 1; child < this.#heap.length; child = 2 * place + 1) {
      const right = child + 1;
      if (right < this.#heap.length && this.activity[this.#heap[right]!]! > this.activity[this.#heap[child]!]!)
        child = right;
      if (this.activity[variable]! >= this.activity[this.#heap[child]!]!) break;
      this.#put(this.#heap[child]!, place);
      place = child;
    }
    this.#put(variable, place);
  }

  add(variable: number): void {
    if ((this.#place[variable] ?? -1) >= 0) return;
    this.#put(variable, this.#heap.length);
    this.#up(this.#heap.length - 1);
  }

  risen(variable: number): void {
    const place = this.#place[variable] ?? -1;
    if (place >= 0) this.#up(place);
  }

  pop(): number | undefined {
    const top = this.#heap[0];
    if (top === undefined) return undefined;
    const last = this.#heap.pop()!;
    this.#place[top] = -1;
    if (last !== top) {
      this.#put(last, 0);
      this.#down(0);
    }
    return top;
  }
}

/**
 * Says whether clauses can all hold, under assumptions: conflict-driven clause learning with two watched literals, first
 * unique implication points, activities, saved phases and restarts (J. Marques-Silva, K. Sakallah, GRASP, 1999; M. Moskewicz
 * and others, Chaff, 2001; N. Eén, N. Sörensson, An Extensible SAT-solver, 2003). The same questions in the same order get
 * the same answers.
 */
export class Sat {
  /** By literal: 1 where it holds, -1 where its negation does, 0 while that is open. */
  readonly #values: number[] = [];
  readonly #watches: Watch[][] = [];
  /** By variable. */
  readonly #levels: number[] = [];
  readonly #reasons: (Clause | undefined)[] = [];
  readonly #phases: number[] = [];
  readonly #activity: number[] = [];
  readonly #seen: number[] = [];
  readonly #order = new ActivityHeap(this.#activity);
  readonly #trail: Literal[] = [];
  /** How long the trail was at the beginning of each level. */
  readonly #marks: number[] = [];
  #head = 0;
  #learnt: Clause[] = [];
  #learntLimit = LEARNT_START;
  #step = 1;
  #clauseStep = 1;
  #broken = false;
  /** Conflicts so far. */
  conflicts = 0;
  /** After `false`: assumptions that cannot all hold. */
  core: Literal[] = [];
  /** After `true`: the values of the variables. */
  model: boolean[] = [];

  /** @param likely the value that is tried first */
  variable(likely: boolean): Literal {
    const variable = this.#levels.length;
    this.#values.push(0, 0);
    this.#watches.push([], []);
    this.#levels.push(0);
    this.#reasons.push(undefined);
    this.#phases.push(likely ? 0 : 1);
    this.#activity.push(0);
    this.#seen.push(0);
    this.#order.add(variable);
    return 2 * variable;
  }

  /** Adds that one of the literals holds, for good. */
  clause(given: readonly Literal[]): void {
    this.#backTo(0);
    const literals: Literal[] = [];
    for (const literal of given) {
      if (this.#values[literal] === 1 || literals.includes(not(literal))) return;
      if (this.#values[literal] !== -1 && !literals.includes(literal)) literals.push(literal);
    }
    if (literals.length === 0) this.#broken = true;
    else if (literals.length === 1) {
      this.#hold(literals[0]!, undefined);
      this.#broken ||= this.#propagate() !== undefined;
    } else this.#attach({ literals, learnt: false, activity: 0, dropped: false });
  }

  /** Whether the literal holds, or cannot hold, whatever is assumed; undefined where that is not known. */
  fixed(literal: Literal): boolean | undefined {
    this.#backTo(0);
    const value = this.#values[literal]!;
    return value === 0 ? undefined : value === 1;
  }

  #attach(clause: Clause): void {
    const [first, second] = clause.literals as [Literal, Literal];
    this.#watches[first]!.push({ clause, blocker: second });
    this.#watches[second]!.push({ clause, blocker: first });
  }

  #hold(literal: Literal, reason: Clause | undefined): void {
    const variable = literal >> 1;
    this.#values[literal] = 1;
    this.#values[not(literal)] = -1;
    this.#levels[variable] = this.#marks.length;
    this.#reasons[variable] = reason;
    this.#trail.push(literal);
  }

  /** @returns a clause of which no literal can hold any more */
  #propagate(): Clause | undefined {
    const values = this.#values;
    while (this.#head < this.#trail.length) {
      const gone = not(this.#trail[this.#head++]!);
      const watches = this.#watches[gone]!;
      let kept = 0;
      for (let i = 0; i < watches.length; i++) {
        const watch = watches[i]!;
        if (values[watch.blocker] === 1) {
          watches[kept++] = watch;
          continue;
        }
        const { clause } = watch;
        if (clause.dropped) continue;
        const { literals } = clause;
        if (literals[0] === gone) {
          literals[0] = literals[1]!;
          literals[1] = gone;
        }
        const first = literals[0]!;
        watch.blocker = first;
        let open = 2;
        if (values[first] !== 1) while (open < literals.length && values[literals[open]!] === -1) open++;
        if (values[first] !== 1 && open < literals.length) {
          literals[1] = literals[open]!;
          literals[open] = gone;
          this.#watches[literals[1]!]!.push(watch);
          continue;
        }
        watches[kept++] = watch;
        if (values[first] === 1) continue;
        if (values[first] === 0) {
          this.#hold(first, clause);
          continue;
        }
        while (++i < watches.length) watches[kept++] = watches[i]!;
        watches.length = kept;
        this.#head = this.#trail.length;
        return clause;
      }
      if (kept < watches.length) watches.length = kept;
    }
    return undefined;
  }

  #backTo(level: number): void {
    if (this.#marks.length <= level) return;
    const mark = this.#marks[level]!;
    for (let i = this.#trail.length - 1; i >= mark; i--) {
      const literal = this.#trail[i]!;
      this.#values[literal] = 0;
      this.#values[not(literal)] = 0;
      this.#phases[literal >> 1] = literal & 1;
      this.#order.add(literal >> 1);
    }
    this.#trail.length = mark;
    this.#marks.length = level;
    this.#head = mark;
  }

  #bump(variable: number): void {
    this.#activity[variable]! += this.#step;
    if (this.#activity[variable]! > RESCALE) {
      this.#activity.forEach((value, i) => (this.#activity[i] = value / RESCALE));
      this.#step /= RESCALE;
    }
    this.#order.risen(variable);
  }

  #bumpClause(clause: Clause): void {
    if (!clause.learnt) return;
    clause.activity += this.#clauseStep;
    if (clause.activity < RESCALE) return;
    for (const other of this.#learnt) other.activity /= RESCALE;
    this.#clauseStep /= RESCALE;
  }

  /** The clause that the conflict teaches, the literal that it makes hold first, and the level to go back to. */
  #analyze(conflict: Clause): { literals: Literal[]; level: number } {
    const literals: Literal[] = [-1];
    const touched: number[] = [];
    let open = 0;
    let place = this.#trail.length;
    let asserting = -1;
    for (let clause: Clause | undefined = conflict; ;) {
      this.#bumpClause(clause!);
      for (const literal of clause!.literals) {
        const variable = literal >> 1;
        if (literal === asserting || this.#seen[variable] || this.#levels[variable] === 0) continue;
        this.#seen[variable] = 1;
        touched.push(variable);
        this.#bump(variable);
        if (this.#levels[variable] === this.#marks.length) open++;
        else literals.push(literal);
      }
      do asserting = this.#trail[--place]!;
      while (!this.#seen[asserting >> 1]);
      if (--open === 0) break;
      clause = this.#reasons[asserting >> 1];
    }
    literals[0] = not(asserting);
    // What follows from others of the clause says nothing more.
    const short = literals.filter((literal, i) => {
      const reason = this.#reasons[literal >> 1];
      if (i === 0 || !reason) return true;
      return reason.literals.some((other) => !this.#seen[other >> 1] && this.#levels[other >> 1]! > 0);
    });
    for (const variable of touched) this.#seen[variable] = 0;
    let second = 1;
    for (let i = 2; i < short.length; i++) {
      if (this.#levels[short[i]! >> 1]! > this.#levels[short[second]! >> 1]!) second = i;
    }
    if (short.length > 1) [short[1], short[second]] = [short[second]!, short[1]!];
    return { literals: short, level: short.length > 1 ? this.#levels[short[1]! >> 1]! : 0 };
  }

  /** The assumptions that `failed`, which is one itself and cannot hold, follows from. */
  #assumptionsAgainst(failed: Literal): Literal[] {
    const core = [failed];
    this.#seen[failed >> 1] = 1;
    for (let i = this.#trail.length - 1; i >= (this.#marks[0] ?? this.#trail.length); i--) {
      const literal = this.#trail[i]!;
      const variable = literal >> 1;
      if (!this.#seen[variable]) continue;
      this.#seen[variable] = 0;
      const reason = this.#reasons[variable];
      if (!reason) core.push(literal);
      else
        for (const other of reason.literals) {
          if (other !== literal && this.#levels[other >> 1]! > 0) this.#seen[other >> 1] = 1;
        }
    }
    this.#seen[failed >> 1] = 0;
    return core;
  }

  #learn(literals: Literal[]): void {
    if (literals.length === 1) {
      this.#hold(literals[0]!, undefined);
      return;
    }
    const clause = { literals, learnt: true, activity: this.#clauseStep, dropped: false };
    this.#learnt.push(clause);
    this.#attach(clause);
    this.#hold(literals[0]!, clause);
  }

  #forgetLearnt(): void {
    const isReason = (clause: Clause): boolean => this.#reasons[clause.literals[0]! >> 1] === clause;
    const sorted = this.#learnt.toSorted((a, b) => b.activity - a.activity);
    sorted.forEach((clause, i) => {
      if (i > sorted.length / 2 && clause.literals.length > 2 && !isReason(clause)) clause.dropped = true;
    });
    this.#learnt = this.#learnt.filter(({ dropped }) => !dropped);
    this.#learntLimit *= 1.1;
  }

  /**
   * @param assumptions have to hold as well, for this question alone
   * @param most conflicts at which to give up
   * @returns undefined where it gave up
   */
  solve(assumptions: readonly Literal[], most: number): boolean | undefined {
    this.#backTo(0);
    this.core = [];
    if (this.#broken) return false;
    const stop = this.conflicts + most;
    for (let restart = 0; ; restart++) {
      const answer = this.#search(assumptions, this.conflicts + RESTART_BASE * luby(restart), stop);
      if (answer !== 'restart') {
        this.#backTo(0);
        return answer;
      }
      // The assumptions would only be made again.
      this.#backTo(assumptions.length);
    }
  }

  #search(assumptions: readonly Literal[], restartAt: number, stop: number): boolean | undefined | 'restart' {
    for (;;) {
      const conflict = this.#propagate();
      if (conflict) {
        this.conflicts++;
        if (this.#marks.length === 0) {
          this.#broken = true;
          return false;
        }
        const { literals, level } = this.#analyze(conflict);
        this.#backTo(level);
        this.#learn(literals);
        this.#step /= DECAY;
        this.#clauseStep /= CLAUSE_DECAY;
        continue;
      }
      if (this.conflicts >= stop) return undefined;
      if (this.conflicts >= restartAt) return 'restart';
      if (this.#learnt.length > this.#learntLimit) this.#forgetLearnt();
      const next = this.#nextDecision(assumptions);
      if (next === undefined) {
        this.model = this.#levels.map((_, variable) => this.#values[2 * variable] === 1);
        return true;
      }
      if (this.#values[next] === -1) {
        this.core = this.#assumptionsAgainst(next);
        return false;
      }
      this.#marks.push(this.#trail.length);
      this.#hold(next, undefined);
    }
  }

  /** The next assumption that does not hold yet, else the most active variable; undefined where all have a value. */
  #nextDecision(assumptions: readonly Literal[]): Literal | undefined {
    while (this.#marks.length < assumptions.length) {
      const assumed = assumptions[this.#marks.length]!;
      if (this.#values[assumed] !== 1) return assumed;
      // Each assumption has a level of its own, so that the next one is found by the level.
      this.#marks.push(this.#trail.length);
    }
    for (let variable = this.#order.pop(); variable !== undefined; variable = this.#order.pop()) {
      if (this.#values[2 * variable] === 0) return 2 * variable + this.#phases[variable]!;
    }
    return undefined;
  }
}
