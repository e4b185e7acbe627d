import type { GameRules } from '#core/builds';
import { causeLine, notAPattern, onePart } from './compile';

/** Why a pattern among a game's rules is none, and where it stands. */
export interface PatternFault {
  readonly path: readonly (string | number)[];
  /** As a sentence goes on that begins with what it is said of. */
  readonly problem: string;
}

/** The patterns of a game's rules that are none, or lack their part in parentheses. */
export function patternFaults({
  record,
  log,
  loaderSwitch,
  versions = [],
  causes = [],
}: Omit<GameRules, 'own'>): PatternFault[] {
  const told = (
    path: PatternFault['path'],
    pattern: string | undefined,
    fault: (text: string) => string | undefined,
  ) => {
    const problem = pattern === undefined ? undefined : fault(pattern);
    return problem === undefined ? [] : [{ path, problem }];
  };
  const isText = record?.form === 'text';
  return [
    ...told(['record', 'at'], isText ? record.at : undefined, onePart),
    ...told(['record', 'build'], isText ? record.build : undefined, onePart),
    ...told(['record', 'branch'], isText ? record.branch : undefined, onePart),
    ...told(['record', 'branchCode'], isText ? record.branchCode : undefined, onePart),
    ...told(['loaderSwitch', 'at'], loaderSwitch?.form === 'text' ? loaderSwitch.at : undefined, onePart),
    ...(['up', 'crashed'] as const).flatMap((name) => told(['log', name], log?.[name], notAPattern)),
    ...(['version', 'loaded', 'failed'] as const).flatMap((name) => told(['log', name], log?.[name], onePart)),
    ...versions.flatMap(({ pattern }, i) => told(['versions', i, 'pattern'], pattern, onePart)),
    ...causes.flatMap(({ line }, i) => told(['causes', i, 'line'], line, causeLine)),
  ];
}
