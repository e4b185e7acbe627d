import { NativeSelect } from '@mantine/core';
import { broadcast, type Install, updateInstall } from '~/store';

type Rules = NonNullable<Install['retention']>;

/** Of a rule the choices that there are; the empty value stands for none. */
export interface RetentionKind {
  readonly key: keyof Rules;
  readonly label: string;
  readonly data: readonly { readonly value: string; readonly label: string }[];
}

export const NO_LIMIT = { value: '', label: 'without limit' };

async function setRule(install: string, key: keyof Rules, value: string): Promise<void> {
  await updateInstall(install, ({ retention = {}, ...now }) => {
    const { [key]: _, ...rest } = retention;
    return { ...now, retention: value === '' ? rest : { ...rest, [key]: Number(value) } };
  });
  broadcast({ type: 'changed' });
}

/** How long what is kept stays, kind by kind. */
export function RetentionFields({ install, kinds }: { install: Install; kinds: readonly RetentionKind[] }) {
  const rules = install.retention ?? {};
  return kinds.map(({ key, label, data }) => (
    <NativeSelect
      key={key}
      size="xs"
      label={label}
      data={data}
      value={rules[key] === undefined ? '' : String(rules[key])}
      onChange={(event) => void setRule(install.id, key, event.currentTarget.value)}
    />
  ));
}
