import type { JobKind } from '~/store';
import { mirrorInstall } from '~/changes';
import { type Kind, uncounted, unlessDefect } from '../job-context';
import { assemble } from './assemble';
import { bringDepots } from './bring-depots';
import { clean } from './clean';
import { fetchJob } from './fetch';
import { hold, release } from './hold';
import { keepsake } from './keepsake';
import { keepBuild } from './keep-build';
import { letGo } from './let-go';
import { look } from './look';
import { moveStore } from './move-store';
import { recordBuild } from './record-build';
import { seed } from './seed';
import { start } from './start';
import { storefrontUpdate } from './storefront-update';
import { survey } from './survey';
import { takeBack } from './take-back';
import { tendStore } from './tend-store';

/** Leaves in the folder's store what is known after the job, for when this browser has forgotten it; where that fails, next time. */
const mirrored = (kind: Kind): Kind => ({
  ...kind,
  async run(context) {
    await kind.run(context);
    await mirrorInstall(uncounted(context), context.install).catch(unlessDefect);
  },
});

export const KINDS: Record<JobKind, Kind> = {
  seed,
  look,
  survey: mirrored(survey),
  keepsake,
  fetch: fetchJob,
  'bring-depots': bringDepots,
  assemble: mirrored(assemble),
  clean: mirrored(clean),
  hold: mirrored(hold),
  release: mirrored(release),
  'take-back': mirrored(takeBack),
  'let-go': letGo,
  'keep-build': keepBuild,
  'record-build': recordBuild,
  'tend-store': tendStore,
  'move-store': moveStore,
  'storefront-update': storefrontUpdate,
  start,
};
