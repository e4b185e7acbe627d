export { bestSet, candidatesAt } from './best-set';
export type { BestSet, ChooseInput, Loss } from './best-set';
export { chooseAll, recommend } from './board';
export type { BuildChoice, ChooseOptions, ModChange } from './board';
export { ChooseQuestionSchema } from './question';
export type { ChooseQuestion } from './question';
