import type { JobKind } from '~/store';
import type { Kind } from '../job-context';

const mirrored = async (kind: Kind): Promise<Kind> => (await import('./mirrored')).mirrored(kind);

/** What each kind of job does. Each is loaded when the first of it runs: nobody needs them to look around. */
export const KINDS: Readonly<Record<JobKind, () => Promise<Kind>>> = {
  seed: async () => (await import('./seed')).seed,
  look: async () => (await import('./look')).look,
  survey: async () => mirrored((await import('./survey')).survey),
  keepsake: async () => (await import('./keepsake')).keepsake,
  'put-back': async () => mirrored((await import('./put-back')).putBackOwn),
  'drop-keepsakes': async () => (await import('./drop-keepsakes')).dropKeepsakes,
  'copy-keepsakes': async () => (await import('./copy-keepsakes')).copyKeepsakes,
  'pack-keepsake': async () => (await import('./pack-keepsake')).packKeepsake,
  'pack-sheet': async () => (await import('./pack-sheet')).packSheet,
  shelve: async () => (await import('./shelve')).shelve,
  'bring-keepsake': async () => (await import('./bring-keepsake')).bringKeepsake,
  'bring-own': async () => (await import('./bring-own')).bringOwn,
  fetch: async () => (await import('./fetch')).fetchJob,
  'bring-depots': async () => (await import('./bring-depots')).bringDepots,
  assemble: async () => mirrored((await import('./assemble')).assemble),
  clean: async () => mirrored((await import('./clean')).clean),
  hold: async () => mirrored((await import('./hold')).hold),
  release: async () => mirrored((await import('./hold')).release),
  'switch-branch': async () => mirrored((await import('./switch-branch')).switchBranch),
  'switch-profile': async () => mirrored((await import('./switch-profile')).switchProfile),
  'copy-folder': async () => mirrored((await import('./copy-folder')).copyFolder),
  'move-files': async () => mirrored((await import('./move-files')).moveFiles),
  'delete-files': async () => mirrored((await import('./delete-files')).deleteFiles),
  'set-switch': async () => mirrored((await import('./set-switch')).setSwitch),
  'take-back': async () => mirrored((await import('./take-back')).takeBack),
  'let-go': async () => (await import('./let-go')).letGo,
  'keep-build': async () => (await import('./keep-build')).keepBuild,
  'keep-vanilla': async () => (await import('./keep-vanilla')).keepVanilla,
  'record-build': async () => (await import('./record-build')).recordBuild,
  'tend-store': async () => (await import('./tend-store')).tendStore,
  'move-store': async () => (await import('./move-store')).moveStore,
  'storefront-update': async () => (await import('./storefront-update')).storefrontUpdate,
  start: async () => (await import('./start')).start,
};
