import type { DepotId } from '#core/builds';
import type { MixedCase } from '#core/survey';
import { count, counted } from '~/parts/format';

/** What is mixed in a folder, and why that matters. */
export function mixedWords(mixed: MixedCase, depots: readonly { depot: DepotId; title: string }[]): string {
  const title = (id: DepotId): string => depots.find(({ depot }) => depot === id)?.title ?? id;
  switch (mixed.kind) {
    case 'program-apart':
      return `Data of ${mixed.data} under the program of ${mixed.program}: it will not start, or crash later.`;
    case 'half-copied':
      return `${title(mixed.depot)} was copied in part: ${count(mixed.absent)} of ${counted(mixed.total, 'file')} are not there.`;
    case 'not-there':
      return `Nothing of ${title(mixed.depot)} is there, though it counts for this folder.`;
    case 'other-language':
      return `${counted(mixed.files, 'file')} of ${mixed.instead} lie where those of ${title(mixed.wanted)} belong.`;
    case 'wrong-way-round':
      return `${title(mixed.lower)} was laid over ${title(mixed.upper)}, the wrong way round: ${counted(mixed.files, 'file')}.`;
  }
}
