import type { WireFailure } from '#core/failure';
import type * as reckoner from './reckoner';

/** The questions that the reckoning worker answers, by name. */
export type Questions = Pick<
  typeof reckoner,
  | 'frame'
  | 'survey'
  | 'choose'
  | 'fetchView'
  | 'assemble'
  | 'plan'
  | 'holdView'
  | 'mend'
  | 'learn'
  | 'telling'
  | 'quickLook'
  | 'listed'
  | 'checksums'
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
