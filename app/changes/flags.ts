import type { Step } from '#core/changes';

/** Tells of files which are read-only: of many in one go, since a server is asked for each question. */
export interface FlagReader {
  readOnlyOf(paths: readonly string[]): Promise<ReadonlySet<string>>;
}

/** The file in whose place a step puts another one, or nothing. */
function displaced(step: Step): string | undefined {
  if (step.do === 'take') return step.path;
  return step.do === 'place' && step.before !== null ? step.to : undefined;
}

/** Steps with the read-only flags lifted that are in their way; what takes a read-only file's place is so afterwards too. */
export async function aroundFlags(disk: FlagReader, steps: readonly Step[]): Promise<Step[]> {
  const paths = steps.map(displaced).filter((path) => path !== undefined);
  const locked = await disk.readOnlyOf(paths);
  const isReady = ({ do: what }: Step): boolean => what === 'copy' || what === 'write';
  const placed = new Set(steps.flatMap((step) => (step.do === 'place' ? [step.to] : [])));
  const flag = (path: string, readOnly: boolean): Step => ({ do: 'flag', path, readOnly, before: !readOnly });
  return [
    ...steps.filter(isReady),
    ...[...locked].map((path) => flag(path, false)),
    ...steps.filter((step) => !isReady(step)),
    ...[...locked].filter((path) => placed.has(path)).map((path) => flag(path, true)),
  ];
}
