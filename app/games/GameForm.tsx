import { Select, Textarea, TextInput } from '@mantine/core';
import { useForm, type UseFormReturnType } from '@mantine/form';
import { useState } from 'react';
import { type Game, RECORD_FORMS } from '#core/builds';
import type { GameForm } from '~/commands';
import {
  asPath,
  FAULTS,
  type Fields,
  fieldsOf,
  gameOf,
  LOG,
  OWN,
  PATHS,
  patternErrors,
  versionsOf,
} from './game-fields';
import styles from './games.module.css';

const FORM_NAMES: Record<Fields['recordForm'], string> = {
  json: 'JSON',
  ini: 'INI: key=value lines',
  xml: 'XML',
  text: 'any other text',
};

/** The parts of the storefront's record that one types. */
const RECORD = [
  { field: 'recordAt', label: 'Where the value stands', placeholder: 'settings/updates' },
  { field: 'recordStops', label: 'Value that stops updates', placeholder: 'manual' },
  { field: 'recordGoes', label: 'Value that lets them come', placeholder: 'automatic' },
  { field: 'recordBranch', label: 'Where the branch stands (optional)', placeholder: 'settings/branch' },
  { field: 'recordCode', label: 'Where the code of a branch stands (optional)', placeholder: 'settings/code' },
] as const;

export type GameFormState = UseFormReturnType<Fields>;

/** A form for what a game is; what it does not show of the rules stays as it was. */
export function useGameForm(game: Pick<Game, 'title' | 'rules'> = { title: '', rules: { own: [] } }): {
  form: GameFormState;
  /** What was typed; undefined where a pattern in it is none, which its field then says. */
  read: () => Promise<GameForm | undefined>;
} {
  const form = useForm<Fields>({ initialValues: fieldsOf(game), validate: FAULTS });
  return {
    form,
    read: async () => {
      const typed = gameOf(form.getValues(), game);
      const errors = await patternErrors(typed);
      form.setErrors(errors);
      return Object.keys(errors).length === 0 ? typed : undefined;
    },
  };
}

/** Of a path, how much of a surveyed folder it matches, in words. */
export type Matches = (paths: readonly string[]) => string | undefined;

/** What the game is called. */
export function TitleField({ form }: { form: GameFormState }) {
  return <TextInput label="Title" required placeholder="What the game is called" {...form.getInputProps('title')} />;
}

/** Where the game keeps what; with `matches`, each field says what it finds in a folder that was surveyed. */
export function RuleFields({ form, matches }: { form: GameFormState; matches?: Matches }) {
  const { values } = form;
  // Open at once where something of it is said.
  const [isOpen] = useState(() =>
    [values.layout, values.versions, values.logFile, values.fetchLine, values.switchFile, values.recordFile].some(
      (text) => text !== '',
    ),
  );
  const says = (...paths: string[]): string | undefined => matches?.(paths.map(asPath).filter((path) => path !== ''));
  return (
    <>
      {PATHS.map(({ field, label, about, placeholder }) => (
        <TextInput
          key={field}
          mt={8}
          label={label}
          description={says(values[field]) ?? about}
          placeholder={placeholder}
          {...form.getInputProps(field)}
        />
      ))}
      {values.loadOrder.trim() !== '' && (
        <>
          <TextInput
            mt={8}
            label="Its entry of a mod that is on"
            description="With {mod} for the mod’s id; leave empty for the id alone"
            placeholder={'<mod id="{mod}" enabled="true"/>'}
            {...form.getInputProps('listOn')}
          />
          {values.listOn.trim() !== '' && (
            <>
              <TextInput mt={8} label="Its entry of one that is off" {...form.getInputProps('listOff')} />
              <Textarea mt={8} label="What stands before the first" rows={2} {...form.getInputProps('listHead')} />
              <TextInput
                mt={8}
                label="What ends each but the last"
                description="Besides the line’s end, such as a comma"
                {...form.getInputProps('listBetween')}
              />
              <Textarea mt={8} label="What stands behind the last" rows={2} {...form.getInputProps('listTail')} />
            </>
          )}
        </>
      )}
      {OWN.map(({ field, label }) => (
        <Textarea
          key={field}
          mt={8}
          label={label}
          description={
            says(...values[field].split('\n')) ??
            'Folders, files, or patterns such as **/*.sav, one a line; they are yours, and never taken for strays'
          }
          rows={2}
          {...form.getInputProps(field)}
        />
      ))}
      <details className={styles.folded} open={isOpen}>
        <summary>Layout of mods, versions, log, fetch list, loader’s switch, storefront’s record</summary>
        <Textarea
          mt={8}
          label="Where files of mods belong"
          description="One rule a line: a name or pattern, and the folder behind a colon; “, own folder” where each mod has its own in it. Without any it is learned from mods that are known"
          placeholder={'*.pak: data/paks\nmod.json: mods, own folder'}
          rows={3}
          {...form.getInputProps('layout')}
        />
        <Textarea
          mt={8}
          label="Files that tell the version"
          description={
            says(...(versionsOf(values.versions) ?? []).map(({ file }) => file)) ??
            'One a line; of a text with a pattern behind a colon. Without any, a Windows program is asked'
          }
          placeholder="version.txt: ^build (.*)$"
          rows={2}
          {...form.getInputProps('versions')}
        />
        <TextInput
          mt={8}
          label="Log of a start"
          description={says(values.logFile) ?? 'The file in which the game writes what it loads'}
          placeholder="logs/last-run.txt"
          {...form.getInputProps('logFile')}
        />
        {values.logFile.trim() !== '' &&
          LOG.map(({ field, label, placeholder }, i) => (
            <TextInput
              key={field}
              mt={8}
              label={label}
              description={i === 0 ? 'Patterns, as in search fields that take regular expressions' : undefined}
              placeholder={placeholder}
              {...form.getInputProps(field)}
            />
          ))}
        <TextInput
          mt={8}
          label="Line of the fetch list"
          description="What another program wants to be told of a depot: {depot}, {manifest}, {build}, {digest}, {files}, {bytes}"
          placeholder="get {depot} {manifest}"
          {...form.getInputProps('fetchLine')}
        />
        <TextInput
          mt={8}
          label="Loader’s switch"
          description={
            says(values.switchFile) ?? 'A file with a value that has mods be loaded, and that patches set back'
          }
          placeholder="settings/game.ini"
          {...form.getInputProps('switchFile')}
        />
        {values.switchFile.trim() !== '' && (
          <>
            <Select
              mt={8}
              label="How the switch’s file is written"
              data={RECORD_FORMS.map((value) => ({ value, label: FORM_NAMES[value] }))}
              allowDeselect={false}
              {...form.getInputProps('switchForm')}
            />
            <TextInput
              mt={8}
              label="Where the switch stands"
              description={AT_WORDS[values.switchForm]}
              placeholder="mods/enabled"
              {...form.getInputProps('switchAt')}
            />
            <TextInput
              mt={8}
              label="Value with which mods are loaded"
              placeholder="1"
              {...form.getInputProps('switchOn')}
            />
          </>
        )}
        <TextInput
          mt={8}
          label="Storefront’s record"
          description={says(values.recordFile) ?? 'The file in which the storefront keeps whether it updates the game'}
          placeholder="store/state.json"
          {...form.getInputProps('recordFile')}
        />
        {values.recordFile.trim() !== '' && (
          <>
            <Select
              mt={8}
              label="How it is written"
              data={RECORD_FORMS.map((value) => ({ value, label: FORM_NAMES[value] }))}
              allowDeselect={false}
              {...form.getInputProps('recordForm')}
            />
            {RECORD.map(({ field, label, placeholder }) => (
              <TextInput
                key={field}
                mt={8}
                label={label}
                description={field === 'recordAt' ? AT_WORDS[values.recordForm] : undefined}
                placeholder={placeholder}
                {...form.getInputProps(field)}
              />
            ))}
          </>
        )}
      </details>
    </>
  );
}

const AT_WORDS: Record<Fields['recordForm'], string> = {
  json: 'Names from the outside in, with / between them',
  ini: 'section/key, or the key alone',
  xml: 'Elements from the root on with / between them; @name for an attribute',
  text: 'A pattern with the value in parentheses, such as updates = "(.*)"',
};
