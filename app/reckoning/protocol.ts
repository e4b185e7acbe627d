import type { WireFailure } from '#core/failure';
import type * as choosing from './choosing';
import type * as reading from './reading';
import type * as reckoner from './reckoner';
import type * as surveying from './surveying';

/** The questions that the reckoning worker answers, by name. */
export type Questions = Pick<
  typeof reckoner,
  'frame' | 'fetchView' | 'assemble' | 'plan' | 'holdView' | 'mend' | 'learn' | 'refreshServices'
> &
  Pick<typeof reading, 'kindOfFile' | 'readLog' | 'readTable' | 'readSheet' | 'readSheetWeights'> &
  Pick<typeof choosing, 'choose' | 'decide' | 'evidence' | 'twoBuilds' | 'whyNot'> &
  Pick<
    typeof surveying,
    | 'survey'
    | 'surveyedFile'
    | 'difference'
    | 'telling'
    | 'pieceSizes'
    | 'quickLook'
    | 'listed'
    | 'checksums'
    | 'metalink'
    | 'recordFolder'
    | 'recordDigests'
  >;
export type Question = keyof Questions;

export interface Ask {
  readonly id: number;
  readonly question: Question;
  readonly parameters: readonly unknown[];
}

export type Answer =
  | { readonly id: number; readonly type: 'answer'; readonly value: unknown }
  | { readonly id: number; readonly type: 'failed'; readonly failure: WireFailure };
