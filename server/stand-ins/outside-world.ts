import { randomInt, randomUUID } from 'node:crypto';
import { newestBuild } from '#core/builds';
import { Failure } from '#core/failure';
import { PASSED_AROUND, PASSED_LOGS } from '#demo';
import type { PanelAction, PanelState } from '#core/outside';
import { library } from './library';

/** The made-up account; its owner has Winter Ice, and not Salt Coast. */
export const ACCOUNT = {
  name: 'ferryhand',
  passphrase: 'lantern-over-water',
  branchCode: 'deep-water',
  addOns: ['winter-ice'],
};

export interface Session {
  readonly branches: ReadonlySet<string>;
  usedAt: number;
}

const MINUTES = 60_000;
/** How long a one-time code holds, and how often it may be typed wrongly. */
const CODE_HOLDS = 5 * MINUTES;
const CODE_TRIES = 5;
/** Wrong tries, and codes asked for, that are borne within a time. */
const MOST_TRIES = 20;
const TRIES_COUNT_FOR = 10 * MINUTES;
/** A session ends when it was not used for so long. */
const SESSION_HOLDS = 12 * 60 * MINUTES;

/** The outside world as one visitor sees it: patches that came out, faults that were asked for, who is signed in. */
export class OutsideWorld {
  patchReleased = false;
  faults: PanelState['faults'] = {
    ...{ delayMs: 0, failEvery: 0, corruptEvery: 0, bytesPerSecond: 0 },
    ...{ spoilt: '', gone: '', wholeOnly: false, changeAfter: 0 },
  };
  ignoresSetting = false;
  /** Whether anything in it is another than in a new world. */
  isTouched = false;
  usedAt: number;
  #code: { digits: string; sentAt: number; triesLeft: number } | null = null;
  /** Times of wrong tries and of codes that were asked for. */
  #tries: number[] = [];
  readonly #sessions = new Map<string, Session>();
  #fileRequests = 0;
  #starts = 0;

  constructor(private readonly now: () => number = Date.now) {
    this.usedAt = now();
  }

  /** @throws Failure `service/too-many-tries` */
  assertMayTry(): void {
    this.#tries = this.#tries.filter((at) => at > this.now() - TRIES_COUNT_FOR);
    if (this.#tries.length >= MOST_TRIES) throw new Failure('service/too-many-tries');
  }

  noteWrongTry(): void {
    this.#tries.push(this.now());
    this.isTouched = true;
  }

  sendCode(): void {
    this.noteWrongTry();
    const digits = String(randomInt(1_000_000)).padStart(6, '0');
    this.#code = { digits, sentAt: this.now(), triesLeft: CODE_TRIES };
  }

  get oneTimeCode(): string | null {
    if (this.#code && (this.#code.triesLeft === 0 || this.now() - this.#code.sentAt > CODE_HOLDS)) this.#code = null;
    return this.#code?.digits ?? null;
  }

  /** Whether this is the code that was sent last; a wrong one is counted. */
  takesCode(digits: string): boolean {
    const is = this.oneTimeCode !== null && digits === this.oneTimeCode;
    if (!is && this.#code) this.#code.triesLeft -= 1;
    if (!is) this.noteWrongTry();
    return is;
  }

  /** Counts the starts of the game: some things go wrong every other time. */
  nextStart(): number {
    this.isTouched = true;
    return ++this.#starts;
  }

  openSession(branches: ReadonlySet<string>): string {
    const token = randomUUID();
    this.#sessions.set(token, { branches, usedAt: this.now() });
    this.#code = null;
    this.#tries = [];
    this.isTouched = true;
    return token;
  }

  session(token: string): Session | undefined {
    const session = this.#sessions.get(token);
    if (session && this.now() - session.usedAt > SESSION_HOLDS) this.#sessions.delete(token);
    else if (session) session.usedAt = this.now();
    return this.#sessions.get(token);
  }

  /** Counts a request for a file's bytes and says what goes wrong with it. */
  nextFault(path: string): 'none' | 'fail' | 'corrupt' | 'gone' | 'changed' {
    const n = ++this.#fileRequests;
    const { failEvery, corruptEvery, spoilt, gone, changeAfter } = this.faults;
    if (gone !== '' && path.includes(gone)) return 'gone';
    if (failEvery > 0 && n % failEvery === 0) return 'fail';
    if (changeAfter > 0 && n > changeAfter) return 'changed';
    const isSpoilt = spoilt !== '' && path.includes(spoilt);
    return isSpoilt || (corruptEvery > 0 && n % corruptEvery === 0) ? 'corrupt' : 'none';
  }

  panel(): PanelState {
    const { patchReleased, faults, ignoresSetting, oneTimeCode } = this;
    const { name, passphrase, branchCode } = ACCOUNT;
    const main = newestBuild(library.index(patchReleased), 'main')!;
    const handedOn = (all: readonly { readonly name: string; readonly words: string }[], service: string) =>
      all.map(({ name, words }) => ({ name, words, href: `/stand-ins/${service}/${encodeURIComponent(name)}` }));
    return {
      patchReleased,
      faults,
      ignoresSetting,
      oneTimeCode,
      account: { name, passphrase, branchCode },
      main,
      archives: handedOn(PASSED_AROUND, 'archives'),
      logs: handedOn(PASSED_LOGS, 'logs'),
    };
  }

  act(action: PanelAction): void {
    this.isTouched = true;
    switch (action.do) {
      case 'release-patch':
        this.patchReleased = true;
        break;
      case 'set-faults':
        // "After so many answers" counts from when it is asked for.
        this.#fileRequests = 0;
        this.faults = { ...this.faults, ...action.faults };
        break;
      case 'ignore-setting':
        this.ignoresSetting = action.ignores;
        break;
      case 'forget-sessions':
        this.#sessions.clear();
    }
  }
}

const COOKIE = 'regressum-world';
const MAX_WORLDS = 200;
/** A world that nobody used for so long makes room for another. */
const WORLD_HOLDS = 60 * MINUTES;

/**
 * The worlds of all visitors. Only one in which something was done is kept, and none is forgotten that is in use: requests
 * with new cookies, however many, put nobody out.
 */
export class Worlds {
  readonly #worlds = new Map<string, OutsideWorld>();
  /** New ones, for as long as a request is answered in them. */
  readonly #entered = new Map<string, { world: OutsideWorld; requests: number }>();

  constructor(private readonly now: () => number = Date.now) {}

  /** The world of a visitor, who leaves it when the request is answered. */
  enter(id: string): OutsideWorld {
    const kept = this.#worlds.get(id);
    if (kept) return kept;
    const entered = this.#entered.get(id) ?? { world: new OutsideWorld(this.now), requests: 0 };
    entered.requests += 1;
    this.#entered.set(id, entered);
    return entered.world;
  }

  /** Keeps what was done in a world. @throws Failure `service/failed` where there is no room */
  leave(id: string, world: OutsideWorld): void {
    const entered = this.#entered.get(id);
    if (entered && --entered.requests === 0) this.#entered.delete(id);
    if (!world.isTouched) return;
    if (!this.#worlds.has(id) && this.#worlds.size >= MAX_WORLDS) {
      const idle = [...this.#worlds].find(([, other]) => this.now() - other.usedAt > WORLD_HOLDS);
      if (!idle) throw new Failure('service/failed', { what: 'too many visitors' });
      this.#worlds.delete(idle[0]);
    }
    world.usedAt = this.now();
    // The one that was used last stands last.
    this.#worlds.delete(id);
    this.#worlds.set(id, world);
  }
}

const worlds = new Worlds();

const idOf = (request: Request): string =>
  new RegExp(`(?:^|; )${COOKIE}=([0-9a-f-]{36})(?:;|$)`).exec(request.headers.get('Cookie') ?? '')?.[1] ?? 'nobody';

/**
 * Answers a request in the world of the visitor whose cookie it carries: each browser profile has one of its own.
 * @throws Failure as `answer` does, and as {@link Worlds.leave}
 */
export async function inWorldOf(
  request: Request,
  answer: (world: OutsideWorld) => Promise<Response>,
): Promise<Response> {
  const id = idOf(request);
  const world = worlds.enter(id);
  try {
    return await answer(world);
  } finally {
    worlds.leave(id, world);
  }
}

/** The cookie to set where a request brings none. */
export function worldCookie(request: Request): string | undefined {
  if (request.headers.get('Cookie')?.includes(`${COOKIE}=`)) return undefined;
  return `${COOKIE}=${randomUUID()}; Path=/; HttpOnly; SameSite=Strict; Max-Age=31536000`;
}
