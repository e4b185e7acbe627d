/*
 * Parts of the frame that are drawn when there is something to say or to see: they are loaded then, or ahead, since what they
 * tell of may be that the server has gone.
 */
export const LATER = {
  JobLog: () => import('./JobLog'),
  StandingFacts: () => import('./StandingFacts'),
  LookOnly: () => import('./LookOnly'),
  ServerAway: () => import('./ServerAway'),
  Unfinished: () => import('./Unfinished'),
};
