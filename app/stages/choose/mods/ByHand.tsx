import { Autocomplete, Button, Select, TextInput } from '@mantine/core';
import { useForm } from '@mantine/form';
import { useEffect, useRef, useState } from 'react';
import { ModIdSchema } from '#core/builds';
import { failureToWire } from '#core/failure';
import { WEIGHTS } from '#core/mods';
import { fileName, isBelow } from '#core/paths';
import { MOD_FIELDS, type ModField, readModTable } from '#core/tables';
import { useFrame } from '~/parts/use-frame';
import { counted } from '~/parts/format';
import { FailureNotice, Notice } from '~/parts/parts';
import type { ChooseView } from '~/queries';
import { takeOverWritten } from '~/commands';
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

/**
 * One release of a mod, written down by hand: read as a table of one row would be.
 * @param folder with files that nobody knows: the mod's own, which go along with it
 */
/** Ranges of builds that there are. */
const rangeExample = ([first, second, ...others]: readonly string[]): string =>
  first === undefined
    ? 'up to 1.4'
    : second === undefined
      ? first
      : `${first} to ${others.at(-1) ?? second}; or: up to ${second}`;

export function ByHand({ view, folder }: { view: ChooseView; folder: string | undefined }) {
  const { install, index } = useFrame();
  const [done, setDone] = useState<string>();
  const [failure, setFailure] = useState<unknown>();
  // A list has no bytes to take along.
  const isHere = folder !== undefined && install.place.kind !== 'list';
  const files = isHere ? view.unknownFiles.filter(({ path }) => path === folder || isBelow(path, folder)) : [];
  const name = folder === undefined ? '' : fileName(folder);
  const { builds } = index;
  const read = (values: Record<ModField, string>) =>
    readModTable([{ line: 1, cells: MOD_FIELDS.map((field) => values[field]) }], COLUMNS, {
      catalogue: view.catalogue,
      builds,
    });
  const form = useForm({
    initialValues: { ...EMPTY, mod: name },
    validate: (values) => {
      const { faults: found, alike } = read(values);
      const faults = found.map((fault) => [fault.field, faultWords(fault)] as const);
      const names = alike.map(
        ({ other }) => ['mod', `This would be taken for “${other}”. Choose that, or another name.`] as const,
      );
      const noBuild = values.builds.trim() === '' ? [['builds', 'Say at least one build.'] as const] : [];
      return Object.fromEntries([...noBuild, ...names, ...faults]);
    },
  });
  async function add(values: Record<ModField, string>): Promise<void> {
    setDone(undefined);
    setFailure(undefined);
    try {
      await takeOverWritten(install, read(values), ModIdSchema.safeParse(name).data, files);
      setDone(`${values.mod} ${values.release} was added to your mods.`);
      form.setValues({ ...EMPTY, mod: values.mod });
    } catch (error) {
      setFailure(error);
    }
  }
  const start = useRef<HTMLInputElement>(null);
  // Asked for from elsewhere on the page: the form may stand out of sight.
  useEffect(() => void (folder !== undefined && start.current?.focus()), [folder]);
  return (
    <form onSubmit={form.onSubmit((values) => void add(values))}>
      {files.length > 0 && (
        <p>
          With the {counted(files.length, 'file')} in <code>{folder}</code>, which go along to other builds.
        </p>
      )}
      <Autocomplete
        size="xs"
        label="Mod"
        data={view.catalogue.mods.map((mod) => mod.name)}
        limit={8}
        {...form.getInputProps('mod')}
      />
      <TextInput ref={start} label="Release" placeholder="1.2" {...form.getInputProps('release')} />
      <TextInput
        label="Supported builds"
        placeholder={rangeExample(builds.map(({ label }) => label))}
        {...form.getInputProps('builds')}
      />
      <TextInput
        label="Requires"
        placeholder="Its loader 1.12 to 1.14; a library"
        {...form.getInputProps('requires')}
      />
      <Select
        size="xs"
        label="Weight"
        placeholder="unchanged; want for a new mod"
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
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
    </form>
  );
}
