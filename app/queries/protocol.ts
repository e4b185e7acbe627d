import type { Work } from '#core/calls';
import type * as choosing from './choosing';
import type * as reading from './reading';
import type { Stripped } from './shared';
import type * as stages from './stages';
import type * as surveying from './surveying';

/** The questions that the query worker answers, by name. */
export type Questions = Pick<
  typeof stages,
  'frame' | 'fetchView' | 'assemble' | 'plan' | 'holdView' | 'mend' | 'learn' | 'refreshServices'
> &
  Pick<typeof reading, 'kindOfFile' | 'readLog' | 'readTable' | 'readSheet' | 'readSheetWeights'> &
  Pick<typeof choosing, 'choose' | 'decide' | 'evidence' | 'twoBuilds' | 'whyNot'> &
  Pick<
    typeof surveying,
    | 'survey'
    | 'surveyedFile'
    | 'difference'
    | 'distinguishing'
    | 'pieceSizes'
    | 'quickLook'
    | 'listed'
    | 'checksums'
    | 'metalink'
    | 'recordFolder'
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
