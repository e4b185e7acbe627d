import { Crew } from '#core/calls';
import { servedToken } from '~/remote';
import { browserThread } from '~/workers';
import type { Question, Questions, QueryWork } from './protocol';
import { restoringReceiver } from './shared';

type Restore = ReturnType<typeof restoringReceiver>;

/** What the worker that is asked just now has sent: a fresh one sends everything anew. */
let restore: Restore;
const crew = new Crew<QueryWork>(1, (hear, died) => {
  restore = restoringReceiver();
  const start = (): Worker => new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: 'queries' });
  return browserThread<QueryWork>(start)(hear, died);
});

/** Puts a query to its worker. @throws Failure as the question does, or `job/worker-died` */
export function query<Q extends Question>(
  question: Q,
  ...parameters: Parameters<Questions[Q]>
): ReturnType<Questions[Q]> {
  const member = crew.leastBusy();
  const restoring = restore;
  // Answers come in the order in which they were sent, and are restored in it.
  const answer = member.run({ do: 'answer', question, parameters, token: servedToken() }).then(restoring);
  return answer as ReturnType<Questions[Q]>;
}
