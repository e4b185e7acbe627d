import '~/no-eval';
import { tellServedToken } from '~/remote';
import { answerMessages } from '~/workers';
import * as choosing from './choosing';
import type { QueryWork } from './protocol';
import * as reading from './reading';
import { strippingSender } from './shared';
import * as stages from './stages';
import * as surveying from './surveying';

const questions = { ...choosing, ...reading, ...stages, ...surveying };
const strip = strippingSender();

answerMessages<QueryWork>(async ({ question, parameters, token }) => {
  tellServedToken(token);
  const ask = questions[question] as (...parameters: readonly unknown[]) => Promise<unknown>;
  return strip(await ask(...parameters));
});
