import type { Work } from '#core/calls';
import type * as arrived from './arrived';
import type * as carrying from './carrying';
import type * as choosing from './choosing';
import type * as followed from './followed';
import type * as history from './history';
import type * as keepsakes from './keepsakes';
import type * as logCauses from './log-causes';
import type * as losses from './losses';
import type * as mending from './mending';
import type * as misplaced from './misplaced';
import type * as narrowing from './narrowing';
import type * as order from './order';
import type * as profiles from './profiles';
import type * as reading from './reading';
import type * as recording from './recording';
import type * as resting from './resting';
import type { Stripped } from './shared';
import type * as shelf from './shelf';
import type * as shelving from './shelving';
import type * as sheetParts from './sheet-parts';
import type * as stages from './stages';
import type * as surveying from './surveying';
import type * as telling from './telling';
import type * as turning from './turning';

/** The questions that the query worker answers, by name. */
export type Questions = Pick<
  typeof stages,
  | 'frame'
  | 'proof'
  | 'fetchView'
  | 'assemble'
  | 'plan'
  | 'switchPlan'
  | 'alongNow'
  | 'sinceSurvey'
  | 'keptCopy'
  | 'heldPaths'
  | 'copyElsewhere'
  | 'holdView'
  | 'learn'
  | 'learnSources'
  | 'planFetch'
> &
  Pick<
    typeof history,
    | 'storeOfInstall'
    | 'changesOfInstall'
    | 'keptContents'
    | 'changeDetails'
    | 'whatIsKept'
    | 'whatIsUnclaimed'
    | 'elsewhereOf'
    | 'outsideChange'
    | 'keepPlan'
    | 'keepOffer'
    | 'storeChanged'
  > &
  Pick<typeof carrying, 'carry' | 'carryable' | 'carryBases'> &
  Pick<typeof turning, 'leavesOf'> &
  Pick<typeof followed, 'followed'> &
  Pick<typeof profiles, 'profilesView' | 'switchView'> &
  Pick<typeof keepsakes, 'keepsakes' | 'keepsakesToCopy' | 'keepsakeView' | 'standing' | 'savesWith'> &
  Pick<typeof logCauses, 'logCauses'> &
  Pick<typeof losses, 'losses'> &
  Pick<typeof mending, 'mend' | 'mended' | 'stepTarget'> &
  Pick<typeof misplaced, 'misplaced'> &
  Pick<typeof narrowing, 'narrowing'> &
  Pick<typeof order, 'order' | 'orderOf' | 'sharedList'> &
  Pick<typeof sheetParts, 'sheetParts'> &
  Pick<typeof shelf, 'archives' | 'placesOfDrafts' | 'shelf'> &
  Pick<typeof resting, 'restsOf'> &
  Pick<typeof shelving, 'leaving' | 'shelvable' | 'withdrawnHere'> &
  Pick<typeof arrived, 'arrived' | 'depotFiles'> &
  Pick<
    typeof recording,
    | 'recordPlan'
    | 'recordFiles'
    | 'takeRecorded'
    | 'declare'
    | 'forgetRecorded'
    | 'moveRecorded'
    | 'recorded'
    | 'recordedSource'
  > &
  Pick<typeof telling, 'refreshSources' | 'beforeRemoval' | 'askFirst' | 'takeHanded' | 'takeManifest'> &
  Pick<
    typeof reading,
    'kindOfFile' | 'gameOfIndex' | 'readLog' | 'startAnswer' | 'readTable' | 'readSheet' | 'readSheetWeights'
  > &
  Pick<typeof choosing, 'choose' | 'decide' | 'evidence' | 'replaced' | 'twoBuilds' | 'whyNot'> &
  Pick<
    typeof surveying,
    | 'survey'
    | 'cleanUp'
    | 'cleanPlan'
    | 'surveyedFile'
    | 'difference'
    | 'distinguishing'
    | 'pieceSizes'
    | 'quickLook'
    | 'listed'
    | 'checksums'
    | 'metalink'
    | 'recordDigests'
  >;
export type Question = keyof Questions;

/** What the worker for queries does. */
export interface QueryWork extends Work {
  task: {
    readonly do: 'answer';
    readonly question: Question;
    readonly parameters: readonly unknown[];
    /** Opens served folders, where the page knows it. */
    readonly token: string;
  };
  results: { answer: Stripped };
  progress: never;
}
