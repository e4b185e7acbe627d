import type { JobKind } from '~/store';
import type { Kind } from '../job-context';
import { assemble } from './assemble';
import { fetchJob } from './fetch';
import { hold, release } from './hold';
import { keepsake } from './keepsake';
import { letGo } from './let-go';
import { look } from './look';
import { seed } from './seed';
import { start } from './start';
import { storefrontUpdate } from './storefront-update';
import { survey } from './survey';
import { takeBack } from './take-back';

export const KINDS: Record<JobKind, Kind> = {
  seed,
  look,
  survey,
  keepsake,
  fetch: fetchJob,
  assemble,
  hold,
  release,
  'take-back': takeBack,
  'let-go': letGo,
  'storefront-update': storefrontUpdate,
  start,
};
