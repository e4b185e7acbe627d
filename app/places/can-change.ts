import { isFailure } from '#core/failure';
import type { ServedState } from '#core/served';
import { servedStore } from '~/folders';
import { servedToken } from '~/remote';
import type { InstallPlace } from '~/store';

/**
 * Whether a folder can be changed just now: `may`; `look-only`, as long as its place stays what it is; `not-asked`, the
 * person has not yet said so to the browser; `other-start`, the server was started again and this page does not know its
 * token yet; `unreachable`, the server does not answer.
 */
export type Changing = 'may' | 'look-only' | 'not-asked' | 'other-start' | 'unreachable';

type Served = Extract<InstallPlace, { kind: 'served' }>;

/** What the server says of a folder that it changes, or why it does not. */
type Said = ServedState | Exclude<Changing, 'may'>;

/** What it has said since a question was put, by folder; undefined where nobody has said when one begins. */
let said: Map<string, Promise<Said>> | undefined;

/**
 * One question is answered by one state of a folder: what the server has said of it counts until the next question is put. Whoever
 * never says so asks each time.
 */
export function beginQuestion(): void {
  said = new Map();
}

function askOnce(place: Served): Promise<Said> {
  if (!said) return askServer(place);
  const folder = JSON.stringify([place.root, place.folder, servedToken()]);
  const answer = said.get(folder) ?? askServer(place);
  said.set(folder, answer);
  return answer;
}

async function askServer(place: Served): Promise<Said> {
  try {
    const state = await servedStore({ ...place, token: servedToken() }).state();
    return state.write ? state : 'look-only';
  } catch (error) {
    if (!isFailure(error)) throw error;
    if (isFailure(error, 'served/refused') && error.facts.what === 'token') return 'other-start';
    return error.code === 'service/unreachable' ? 'unreachable' : 'look-only';
  }
}

/** What the server says of a folder that it may change just now; undefined where it may not. */
export async function stateToChange(place: Served): Promise<ServedState | undefined> {
  const answer = await askOnce(place);
  return typeof answer === 'string' ? undefined : answer;
}

type PickedFolders = Extract<InstallPlace, { kind: 'picked' }>;

const handlesOf = ({ handle, store }: PickedFolders): FileSystemDirectoryHandle[] =>
  store ? [handle, store] : [handle];

async function isAllowed(place: PickedFolders, mode: 'read' | 'readwrite'): Promise<boolean> {
  const states = await Promise.all(handlesOf(place).map((handle) => handle.queryPermission({ mode })));
  return states.every((state) => state === 'granted');
}

/** Whether the folder at a place can be changed just now, and if not, what stands in the way. */
export async function changingOf(place: InstallPlace): Promise<Changing> {
  switch (place.kind) {
    case 'browser-disk':
      return 'may';
    case 'served': {
      const answer = await askOnce(place);
      return typeof answer === 'string' ? answer : 'may';
    }
    case 'picked':
      return (await isAllowed(place, 'readwrite')) ? 'may' : 'not-asked';
    case 'handed':
    case 'list':
      return 'look-only';
  }
}

export const canChange = async (place: InstallPlace): Promise<boolean> => (await changingOf(place)) === 'may';

/** Whether a folder that was picked can be read just now. */
export const canRead = (place: PickedFolders): Promise<boolean> => isAllowed(place, 'read');

/** Asks the person for a folder that was picked, and for the one that has its store. Browsers ask only on a click. */
export async function askFor(place: PickedFolders, mode: 'read' | 'readwrite'): Promise<boolean> {
  for (const handle of handlesOf(place)) if ((await handle.requestPermission({ mode })) !== 'granted') return false;
  return true;
}
