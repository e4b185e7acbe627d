import { useEffect, useState } from 'react';
import { compareFiles } from '~/commands';
import { errorWords } from '~/parts/failure-words';
import type { CarryView } from '~/queries';
import type { Install } from '~/store';
import type { MergedFile } from '~/workers';

export interface Merged {
  readonly files: readonly MergedFile[] | undefined;
  readonly failure: string | undefined;
}

/** The files of a mod merged with the game's, in a worker; those of before stay until the new ones are there. */
export function useMerged(install: Install, view: CarryView | undefined): Merged {
  const [merged, setMerged] = useState<Merged & { readonly of: string }>({
    of: '',
    files: undefined,
    failure: undefined,
  });
  const of = view ? `${view.mod} ${view.release} ${view.from} ${view.to}` : '';
  useEffect(() => {
    let isCalledOff = false;
    if (!view) return undefined;
    compareFiles(install, view).then(
      (files) => !isCalledOff && setMerged({ of, files, failure: undefined }),
      (error: unknown) => {
        const { what, next } = errorWords(error);
        if (!isCalledOff) setMerged({ of, files: undefined, failure: `${what} ${next}` });
      },
    );
    return () => {
      isCalledOff = true;
    };
  }, [install, view, of]);
  return merged.of === of ? merged : { files: undefined, failure: undefined };
}
