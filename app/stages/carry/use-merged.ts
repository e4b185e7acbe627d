import { useEffect, useEffectEvent, useState } from 'react';
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
  const [known] = useState(() => new Map<string, MergedFile>());
  const of = view ? `${view.mod} ${view.release} ${view.from} ${view.to}` : '';
  const asked = view && JSON.stringify([of, view.files, view.decided, view.rules]);
  const compare = useEffectEvent(() => compareFiles(install, view!, known));
  useEffect(() => {
    let isCalledOff = false;
    if (asked === undefined) return undefined;
    compare().then(
      (files) => !isCalledOff && setMerged({ of, files, failure: undefined }),
      (error: unknown) => {
        const { what, next } = errorWords(error);
        if (!isCalledOff) setMerged({ of, files: undefined, failure: `${what} ${next}` });
      },
    );
    return () => {
      isCalledOff = true;
    };
  }, [asked, of]);
  return merged.of === of ? merged : { files: undefined, failure: undefined };
}
