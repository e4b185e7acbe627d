import { useEffect, useState } from 'react';
import { query } from './client';
import type { Question, Questions } from './protocol';

type Value<Q extends Question> = Awaited<ReturnType<Questions[Q]>>;

/**
 * The answer to a question, asked anew whenever its parameters or `since` change; undefined until it comes. An answer to
 * an earlier question is dropped. Without parameters nothing is asked.
 * @param since what the answer depends on besides, such as the time of a survey
 */
export function useQuery<Q extends Question>(
  question: Q,
  parameters: Parameters<Questions[Q]> | undefined,
  since: string | number,
): { value: Value<Q> | undefined; failure: unknown } {
  const key = parameters && JSON.stringify([question, parameters, since]);
  const [state, setState] = useState<{ key: string; value?: Value<Q>; failure?: unknown }>();
  useEffect(() => {
    if (key === undefined) return;
    let wanted = true;
    const [, asked] = JSON.parse(key) as [Q, Parameters<Questions[Q]>];
    Promise.resolve(query(question, ...asked)).then(
      (value) => wanted && setState({ key, value: value as Value<Q> }),
      (failure: unknown) => wanted && setState({ key, failure }),
    );
    return () => void (wanted = false);
  }, [key, question]);
  return state?.key === key
    ? { value: state?.value, failure: state?.failure }
    : { value: undefined, failure: undefined };
}
