import { randomInt, randomUUID } from 'node:crypto';
import { newestBuild } from '#core/builds';
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
}

const MAX_WORLDS = 200;

/** The outside world as one visitor sees it: patches that came out, faults that were asked for, who is signed in. */
export class OutsideWorld {
  patchReleased = false;
  faults: PanelState['faults'] = { delayMs: 0, failEvery: 0, corruptEvery: 0 };
  ignoresSetting = false;
  oneTimeCode: string | null = null;
  readonly sessions = new Map<string, Session>();
  #fileRequests = 0;

  sendCode(): void {
    this.oneTimeCode = String(randomInt(1_000_000)).padStart(6, '0');
  }

  openSession(branches: ReadonlySet<string>): string {
    const token = randomUUID();
    this.sessions.set(token, { branches });
    this.oneTimeCode = null;
    return token;
  }

  /** Counts a request for a file's bytes and says what goes wrong with it. */
  nextFault(): 'none' | 'fail' | 'corrupt' {
    const n = ++this.#fileRequests;
    const { failEvery, corruptEvery } = this.faults;
    if (failEvery > 0 && n % failEvery === 0) return 'fail';
    if (corruptEvery > 0 && n % corruptEvery === 0) return 'corrupt';
    return 'none';
  }

  panel(): PanelState {
    const { patchReleased, faults, ignoresSetting, oneTimeCode } = this;
    const { name, passphrase, branchCode } = ACCOUNT;
    const main = newestBuild(library.index(patchReleased), 'main')!;
    return { patchReleased, faults, ignoresSetting, oneTimeCode, account: { name, passphrase, branchCode }, main };
  }

  act(action: PanelAction): void {
    switch (action.do) {
      case 'release-patch':
        this.patchReleased = true;
        break;
      case 'set-faults':
        this.faults = action.faults;
        break;
      case 'ignore-setting':
        this.ignoresSetting = action.ignores;
        break;
      case 'forget-sessions':
        this.sessions.clear();
    }
  }
}

const worlds = new Map<string, OutsideWorld>();
const COOKIE = 'regressum-world';

/**
 * The world of the visitor whose cookie the request carries. Each browser profile has a world of its own; the one that
 * was used longest ago goes when there are too many.
 */
export function worldOf(request: Request): OutsideWorld {
  const id = new RegExp(`(?:^|; )${COOKIE}=([0-9a-f-]{36})`).exec(request.headers.get('Cookie') ?? '')?.[1] ?? 'nobody';
  const world = worlds.get(id) ?? new OutsideWorld();
  worlds.delete(id);
  worlds.set(id, world);
  if (worlds.size > MAX_WORLDS) worlds.delete(worlds.keys().next().value!);
  return world;
}

/** The cookie to set where a request brings none. */
export function worldCookie(request: Request): string | undefined {
  if (request.headers.get('Cookie')?.includes(`${COOKIE}=`)) return undefined;
  return `${COOKIE}=${randomUUID()}; Path=/; HttpOnly; SameSite=Strict; Max-Age=31536000`;
}
