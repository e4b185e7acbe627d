export { bestSet, candidatesAt } from './best-set';
export type { BestSet, ChooseInput, Loss } from './best-set';
export { chooseAll, recommend } from './board';
export type { BuildChoice, ModChange } from './board';
