import * as arrived from './arrived';
import * as carrying from './carrying';
import * as choosing from './choosing';
import * as followed from './followed';
import * as history from './history';
import * as keepsakes from './keepsakes';
import * as logCauses from './log-causes';
import * as losses from './losses';
import * as mending from './mending';
import * as misplaced from './misplaced';
import * as narrowing from './narrowing';
import * as order from './order';
import * as profiles from './profiles';
import * as reading from './reading';
import * as recording from './recording';
import * as resting from './resting';
import * as shelf from './shelf';
import * as shelving from './shelving';
import * as sheetParts from './sheet-parts';
import * as stages from './stages';
import * as surveying from './surveying';
import * as telling from './telling';
import * as turning from './turning';

/** Every question by its name, for whoever answers in the worker's place. */
export const questions = {
  ...arrived,
  ...carrying,
  ...choosing,
  ...followed,
  ...history,
  ...keepsakes,
  ...logCauses,
  ...losses,
  ...mending,
  ...misplaced,
  ...narrowing,
  ...order,
  ...profiles,
  ...reading,
  ...resting,
  ...sheetParts,
  ...shelf,
  ...shelving,
  ...recording,
  ...stages,
  ...surveying,
  ...telling,
  ...turning,
};
