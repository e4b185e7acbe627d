import '~/no-eval';
import { beginQuestion } from '~/places';
import { tellServedToken } from '~/remote';
import { answerMessages } from '~/workers';
import type { QueryWork } from './protocol';
import { questions } from './questions';
import { strippingSender } from './shared';

const strip = strippingSender();

answerMessages<QueryWork>(async ({ question, parameters, token }) => {
  tellServedToken(token);
  beginQuestion();
  const ask = questions[question] as (...parameters: readonly unknown[]) => Promise<unknown>;
  return strip(await ask(...parameters));
});
