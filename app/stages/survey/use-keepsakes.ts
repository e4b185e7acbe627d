import { useEffect, useState } from 'react';
import type { FolderEntry } from '#core/folders';
import { browserDisk, INSTALL_DISK, KEEPSAKES } from '~/folders';

/** The keepsakes of an install, newest first; read anew whenever a job made one. */
export function useKeepsakes(install: string, since: unknown): readonly FolderEntry[] {
  const [entries, setEntries] = useState<readonly FolderEntry[]>([]);
  useEffect(() => {
    let wanted = true;
    void browserDisk(INSTALL_DISK(install))
      .list(KEEPSAKES)
      .then((all) => {
        const whole = all.filter(({ path }) => path.endsWith('.zip'));
        if (wanted) setEntries(whole.toSorted((a, b) => b.modified - a.modified));
      });
    return () => void (wanted = false);
  }, [install, since]);
  return entries;
}
