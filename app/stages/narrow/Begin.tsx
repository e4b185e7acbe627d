import { Button, Radio, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { asMod } from '#core/builds';
import { beginNarrowing } from '~/commands';
import { counted } from '~/parts/format';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { NarrowView } from '~/queries';
import type { Narrowing } from '~/store';
import styles from './narrow.module.css';

/** What fails, before the first start: the game tells some of it by itself. */
export function Begin({ view, at }: { view: NarrowView; at: Attempts }) {
  const { install } = useFrame();
  const [kind, setKind] = useState<Narrowing['symptom']['kind']>(
    view.last?.outcome === 'title' ? 'not-loaded' : 'crash',
  );
  const notLoaded = view.mods.find(({ signs }) => signs.includes('named'));
  const [mod, setMod] = useState<string>(notLoaded?.mod ?? view.mods[0]?.mod ?? '');
  const [words, setWords] = useState('');
  const symptom: Narrowing['symptom'] | undefined =
    kind === 'crash'
      ? { kind }
      : kind === 'not-loaded'
        ? mod === ''
          ? undefined
          : { kind, mod: asMod(mod) }
        : words.trim() === ''
          ? undefined
          : { kind, words: words.trim() };
  return (
    <form
      className={styles.begin}
      aria-label="What fails"
      onSubmit={(event) => {
        event.preventDefault();
        if (symptom) at.attempt(() => beginNarrowing(install.id, view, symptom));
      }}
    >
      <h2>What breaks the game?</h2>
      <p className="quiet">
        Mods are switched off and on, {counted(view.mods.length, 'mod')} in all, until as few starts as can be have told
        which one it is, or which two. Saves and settings stay as they are, and at the end all mods come back.
      </p>
      <Radio.Group label="What fails" value={kind} onChange={(one) => setKind(one as typeof kind)}>
        <div className={styles.choices}>
          <Radio size="xs" value="crash" label="The game does not come up" />
          <Radio size="xs" value="not-loaded" label="A mod does not load" />
          <Radio size="xs" value="seen" label="Something else, which I see while playing" />
        </div>
      </Radio.Group>
      {kind === 'not-loaded' && (
        <Select
          size="xs"
          label="Mod"
          searchable
          allowDeselect={false}
          data={view.mods.map(({ mod: value, name }) => ({ value, label: name }))}
          value={mod}
          onChange={(value) => value !== null && setMod(value)}
        />
      )}
      {kind === 'seen' && (
        <TextInput
          size="xs"
          label="What is to be seen, and how to get there"
          value={words}
          maxLength={300}
          onChange={(event) => setWords(event.currentTarget.value)}
        />
      )}
      <Button type="submit" disabled={!symptom || at.busy || view.mods.length === 0}>
        Begin
      </Button>
    </form>
  );
}
