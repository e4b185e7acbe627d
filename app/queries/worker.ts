import '~/no-eval';
import { tellServedToken } from '~/remote';
import { answerMessages } from '~/workers';
import * as arrived from './arrived';
import * as choosing from './choosing';
import * as history from './history';
import * as keepsakes from './keepsakes';
import * as profiles from './profiles';
import type { QueryWork } from './protocol';
import * as reading from './reading';
import * as recording from './recording';
import { strippingSender } from './shared';
import * as stages from './stages';
import * as surveying from './surveying';
import * as telling from './telling';

const questions = {
  ...arrived,
  ...choosing,
  ...history,
  ...keepsakes,
  ...profiles,
  ...reading,
  ...recording,
  ...stages,
  ...surveying,
  ...telling,
};
const strip = strippingSender();

answerMessages<QueryWork>(async ({ question, parameters, token }) => {
  tellServedToken(token);
  const ask = questions[question] as (...parameters: readonly unknown[]) => Promise<unknown>;
  return strip(await ask(...parameters));
});
