import { useEffect, useState } from 'react';
import { query } from './client';
import type { Question, Questions } from './protocol';

type Value<Q extends Question> = Awaited<ReturnType<Questions[Q]>>;

/**
 * The answer to a question, asked anew whenever its parameters or `since` change; undefined until it comes. While the same
 * question is asked anew its last answer stays. An answer to an earlier question is dropped. Without parameters nothing is
 * asked.
 * @param since what the answer depends on besides, such as the time of a survey
 */
export function useQuery<Q extends Question>(
  question: Q,
  parameters: Parameters<Questions[Q]> | undefined,
  since: string | number,
): { value: Value<Q> | undefined; failure: unknown } {
  const asked = parameters && JSON.stringify([question, parameters]);
  const [state, setState] = useState<{ asked: string; value?: Value<Q>; failure?: unknown }>();
  useEffect(() => {
    if (asked === undefined) return;
    let wanted = true;
    const [, given] = JSON.parse(asked) as [Q, Parameters<Questions[Q]>];
    Promise.resolve(query(question, ...given)).then(
      (value) => wanted && setState({ asked, value: value as Value<Q> }),
      (failure: unknown) => wanted && setState({ asked, failure }),
    );
    return () => void (wanted = false);
  }, [asked, since, question]);
  return state?.asked === asked
    ? { value: state?.value, failure: state?.failure }
    : { value: undefined, failure: undefined };
}
