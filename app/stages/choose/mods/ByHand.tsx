import { Autocomplete, Button, Select, TextInput } from '@mantine/core';
import { useForm } from '@mantine/form';
import { useState } from 'react';
import { WEIGHTS } from '#core/mods';
import { MOD_FIELDS, type ModField, readModTable } from '#core/tables';
import { useFrame } from '~/frame/use-frame';
import { Notice } from '~/parts/parts';
import type { ChooseView } from '~/reckoning/views';
import { takeOverTable } from '~/services/own-mods';
import { faultWords } from './fault-words';

const COLUMNS = Object.fromEntries(MOD_FIELDS.map((field, i) => [field, i])) as Record<ModField, number>;
const EMPTY: Record<ModField, string> = {
  mod: '',
  release: '',
  builds: '',
  requires: '',
  optional: '',
  conflicts: '',
  weight: '',
  author: '',
  kind: '',
};

/** One release of a mod, written down by hand: read as a table of one row would be. */
export function ByHand({ view, name }: { view: ChooseView; name: string }) {
  const { install, index } = useFrame();
  const [done, setDone] = useState<string>();
  const { builds } = index;
  const read = (values: Record<ModField, string>) =>
    readModTable([{ line: 1, cells: MOD_FIELDS.map((field) => values[field]) }], COLUMNS, {
      catalogue: view.catalogue,
      builds,
    });
  const form = useForm({
    initialValues: { ...EMPTY, mod: name },
    validate: (values) => {
      const faults = read(values).faults.map((fault) => [fault.field, faultWords(fault)] as const);
      const noBuild = values.builds.trim() === '' ? [['builds', 'Say at least one build.'] as const] : [];
      return Object.fromEntries([...noBuild, ...faults]);
    },
  });
  async function add(values: Record<ModField, string>): Promise<void> {
    await takeOverTable(install.id, read(values), 'by hand');
    setDone(`${values.mod} ${values.release} is one of your mods now.`);
    form.setValues({ ...EMPTY, mod: values.mod });
  }
  return (
    <form onSubmit={form.onSubmit((values) => void add(values))}>
      <Autocomplete
        size="xs"
        label="Mod"
        data={view.catalogue.mods.map((mod) => mod.name)}
        limit={8}
        {...form.getInputProps('mod')}
      />
      <TextInput label="Release" placeholder="1.2" {...form.getInputProps('release')} />
      <TextInput
        label="Supported builds"
        placeholder={`${builds[0]?.label} to ${builds.at(-2)?.label ?? builds[0]?.label}; or: up to 3.0`}
        {...form.getInputProps('builds')}
      />
      <TextInput label="Requires" placeholder="Towline 1.12 to 1.14; Sextant" {...form.getInputProps('requires')} />
      <Select
        size="xs"
        label="Weight"
        placeholder="as it is; want where it is new"
        clearable
        data={WEIGHTS.map((value) => value as string)}
        {...form.getInputProps('weight')}
        value={form.values.weight || null}
        onChange={(value) => form.setFieldValue('weight', value ?? '')}
      />
      <Button mt={8} type="submit" variant="default">
        Add this release
      </Button>
      {done && <Notice tone="right">{done}</Notice>}
    </form>
  );
}
