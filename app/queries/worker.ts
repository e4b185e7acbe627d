import '~/no-eval';
import { failureToWire } from '#core/failure';
import { tellServedToken } from '~/remote';
import * as choosing from './choosing';
import type { Answer, Ask } from './protocol';
import * as reading from './reading';
import { strippingSender } from './shared';
import * as stages from './stages';
import * as surveying from './surveying';

const questions = { ...choosing, ...reading, ...stages, ...surveying };
const strip = strippingSender();

self.onmessage = async ({ data }: MessageEvent<Ask>): Promise<void> => {
  const { id, question, parameters, token } = data;
  tellServedToken(token);
  let answer: Answer;
  try {
    const ask = questions[question] as (...parameters: readonly unknown[]) => Promise<unknown>;
    answer = { id, type: 'answer', ...strip(await ask(...parameters)) };
  } catch (error) {
    answer = { id, type: 'failed', failure: failureToWire(error) };
  }
  self.postMessage(answer);
};
