import { Select } from '@mantine/core';
import { OWN_KINDS } from '#core/builds';
import type { Sharing } from '#core/profiles';
import { KIND_NAMES } from '~/parts/own-words';

/** Whether a profile has the player's files together with the others, or for itself. */
export function SharingFields({ sharing, onChange }: { sharing: Sharing; onChange: (sharing: Sharing) => void }) {
  return OWN_KINDS.map((kind) => (
    <Select
      key={kind}
      size="xs"
      label={KIND_NAMES[kind]}
      allowDeselect={false}
      data={[
        { value: 'shared', label: 'shared with other profiles' },
        { value: 'own', label: 'its own' },
      ]}
      value={sharing[kind]}
      onChange={(value) => onChange({ ...sharing, [kind]: value === 'own' ? 'own' : 'shared' })}
    />
  ));
}
