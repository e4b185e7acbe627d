import { Select } from '@mantine/core';
import { memo } from 'react';
import { EVIDENCE_LEVELS, type EvidenceLevel } from '#core/mend';
import { useFrame } from './use-frame';
import { broadcast, updateInstall } from '~/store';

const LEVEL_WORDS: Record<EvidenceLevel, string> = {
  proven: 'Only what was tried here',
  stated: 'The author’s word, or better',
  likely: 'Likely, or better',
  'in doubt': 'Even what is in doubt',
};

/** How weak the evidence may be that counts: one level for the build line, the board and Mend. */
export const EvidenceLevelSelect = memo(function EvidenceLevelSelect({ level }: { level: EvidenceLevel }) {
  const { install } = useFrame();
  async function change(evidence: EvidenceLevel): Promise<void> {
    await updateInstall(install.id, (now) => ({ ...now, evidence }));
    broadcast({ type: 'changed' });
  }
  return (
    <Select
      mt={12}
      size="xs"
      label="Evidence that counts"
      allowDeselect={false}
      data={EVIDENCE_LEVELS.map((value) => ({ value: value as string, label: LEVEL_WORDS[value] }))}
      value={level}
      onChange={(value) => void change(EVIDENCE_LEVELS.find((one) => one === value)!)}
    />
  );
});
