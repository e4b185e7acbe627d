import { Button, FileButton, Textarea, TextInput } from '@mantine/core';
import { useEffect, useEffectEvent, useState } from 'react';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import type { ModId } from '#core/builds';
import { type Mod, type Weight } from '#core/mods';
import { listCells, listMarkdown, MOD_FIELDS, modTable, toCsv } from '#core/tables';
import { useFrame } from '~/parts/use-frame';
import { errorWords } from '~/parts/failure-words';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted } from '~/parts/format';
import { authorWords } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Buttons, ItemLink, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { saveFile } from '~/parts/save-file';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { VirtualRows } from '~/parts/VirtualRows';
import { Way, WayColumns } from '~/parts/Way';
import { type ChooseView, type Given, query, type TableReading } from '~/queries';
import { bytesOf, forgetOwnMod, type HandedText, readHandedTexts, wantMods, wantModsOfSheet } from '~/commands';
import { WhatIf } from '../WhatIf';
import { ByHand } from './ByHand';
import styles from './mods.module.css';
import { ListPreview } from './ListPreview';
import { TablePreview } from './TablePreview';

export const clientLoader = ({ params }: ClientLoaderFunctionArgs) => query('choose', params.install!);
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="your mods" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

/** The mods that the builds are chosen for, and the ways to bring more in. */
export default function Mods() {
  const view = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  const address = useAddress();
  const [table, setTable] = useState<{ given: Given; reading: TableReading }>();
  const [says, setSays] = useState<{ tone: 'right' | 'wrong'; words: string }>();

  async function attempt(work: () => Promise<string | undefined>): Promise<void> {
    setSays(undefined);
    try {
      const words = await work();
      if (words) setSays({ tone: 'right', words });
    } catch (error) {
      const { what, next } = errorWords(error);
      setSays({ tone: 'wrong', words: `${what} ${next}` });
    }
  }
  const readTable = (name: string, given: Given): Promise<void> =>
    attempt(async () => void setTable({ given, reading: await query('readTable', install.id, given, name) }));
  const readHanded = useEffectEvent(({ name, bytes }: HandedText) => void readTable(name, bytes));
  useEffect(() => readHandedTexts(readHanded), []);

  const mine = view.catalogue.mods.filter(({ id }) => view.weights.has(id));
  const selected = view.catalogue.mods.find(({ id }) => id === address.get('mod'));
  return (
    <StagePage
      title="Mods"
      left={<Mine mods={mine} weights={view.weights} />}
      middle={
        table?.reading.listed ? (
          <ListPreview
            name={table.reading.name}
            listed={table.reading.listed}
            onClose={(words) => {
              setTable(undefined);
              setSays(words ? { tone: 'right', words } : undefined);
            }}
          />
        ) : table ? (
          <TablePreview
            key={table.reading.name}
            {...table}
            onClose={(words) => {
              setTable(undefined);
              setSays(words ? { tone: 'right', words } : undefined);
            }}
          />
        ) : (
          <div className={styles.page}>
            <h2 className={styles.title}>Add your mods</h2>
            <p className="quiet">Builds are ranked by the mods on the left. Add more in these ways.</p>
            {says && <Notice tone={says.tone}>{says.words}</Notice>}
            <WayColumns>
              <FromFolder view={view} attempt={attempt} />
              <FromTable mods={mine} view={view} readTable={readTable} attempt={attempt} />
              <FromCatalogue view={view} attempt={attempt} />
              <Way
                title="From a hold sheet"
                can="Imports the mods and weights of somebody else’s sheet. Builds and files stay as they are."
              >
                <FileButton
                  onChange={(file) =>
                    file &&
                    void attempt(async () => {
                      const wanted = await wantModsOfSheet(install.id, await bytesOf(file), file.name);
                      return `${counted(wanted, 'mod')} of ${file.name} added to your mods.`;
                    })
                  }
                  inputProps={{ 'aria-label': 'Hold sheet with mods' }}
                >
                  {(props) => (
                    <Button variant="default" {...props}>
                      Import mods from a hold sheet
                    </Button>
                  )}
                </FileButton>
              </Way>
              <Way title="By hand" can="One release of a mod that is missing from the catalogue, or listed wrongly.">
                <ByHand key={address.get('files')} view={view} folder={address.get('files')} />
              </Way>
            </WayColumns>
          </div>
        )
      }
      right={
        <>
          {selected ? (
            <Selected mod={selected} view={view} attempt={attempt} />
          ) : (
            <>
              <Section>Your {counted(mine.length, 'mod')}</Section>
              <p className="quiet">Select a mod to change its weight or remove it.</p>
            </>
          )}
          <p>
            <Link className="link" to={`/${install.id}/choose`}>
              Back to the board
            </Link>
          </p>
        </>
      }
    />
  );
}

type Attempt = (work: () => Promise<string | undefined>) => Promise<void>;

const ROW = 27;

function Mine({ mods, weights }: { mods: readonly Mod[]; weights: ReadonlyMap<ModId, Weight> }) {
  const address = useAddress();
  return (
    <div style={{ display: 'flex', flexDirection: 'column', height: '100%' }}>
      <div className={`label ${parts.heading}`}>Your mods</div>
      {mods.length === 0 && <p className={`quiet ${parts.item}`}>None yet.</p>}
      <VirtualRows
        label="Your mods"
        height={ROW}
        length={mods.length}
        row={(i) => {
          const { id, name } = mods[i]!;
          return (
            <ItemLink changes={{ mod: id }} current={address.get('mod') === id}>
              <span className={parts.grow} title={name}>
                {name}
              </span>
              <span className="quiet">{weights.get(id)}</span>
            </ItemLink>
          );
        }}
      />
    </div>
  );
}

/** Files that nobody knows, by the folder that they lie in below the mods' folder. */
function foldersOf(
  files: ChooseView['unknownFiles'],
  modsFolder: string,
): [folder: string, files: number, size: number][] {
  const folders = new Map<string, { files: number; size: number }>();
  const depth = modsFolder.split('/').filter(Boolean).length;
  for (const { path, size } of files) {
    const folder = path
      .split('/')
      .slice(0, depth + 1)
      .join('/');
    const sum = folders.get(folder) ?? { files: 0, size: 0 };
    folders.set(folder, { files: sum.files + 1, size: sum.size + size });
  }
  return [...folders].map(([folder, sum]) => [folder, sum.files, sum.size]);
}

function FromFolder({ view, attempt }: { view: ChooseView; attempt: Attempt }) {
  const { install, index, survey } = useFrame();
  const address = useAddress();
  const found = view.installed.filter(({ mod }) => !view.weights.has(mod));
  const unknown = foldersOf(view.unknownFiles, index.game.rules.modsFolder ?? '');
  return (
    <Way
      title="From the folder"
      can={
        survey
          ? `${counted(view.installed.length, 'mod')} found in ${install.folder}, recognised by their files.`
          : 'Mods are recognised by their files once the folder has been checked.'
      }
    >
      {found.length > 0 && (
        <Button
          variant="default"
          onClick={() =>
            void attempt(async () => {
              await wantMods(install.id, new Map(found.map(({ mod }) => [mod, 'want'])));
              return `${counted(found.length, 'mod')} of the folder added to your mods.`;
            })
          }
        >
          Add {counted(found.length, 'mod')} found there
        </Button>
      )}
      {survey && unknown.length === 0 && <p className="quiet">Every file belongs to a known mod.</p>}
      {unknown.length > 0 && (
        <>
          <p>{counted(unknown.length, 'place')} with files of no known release:</p>
          <ul className={styles.found}>
            {unknown.map(([folder, files, size]) => (
              <li key={folder}>
                <code>{folder}</code>
                <span className="quiet">
                  {counted(files, 'file')}, {bytes(size)}
                </span>
                <Button
                  size="compact-xs"
                  variant="default"
                  aria-label={`Describe the mod in ${folder}`}
                  onClick={() => address.set({ files: folder })}
                >
                  Describe it
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
    </Way>
  );
}

function FromTable({
  mods,
  view,
  readTable,
  attempt,
}: {
  mods: readonly Mod[];
  view: ChooseView;
  readTable: (name: string, given: Given) => Promise<void>;
  attempt: Attempt;
}) {
  const { install, index } = useFrame();
  const [text, setText] = useState('');
  const table = () => modTable(mods, view.weights, { catalogue: view.catalogue, builds: index.builds });
  const saveCsv = (): void => {
    const { fields, data } = table();
    saveFile(`${install.id}-mods.csv`, toCsv(fields, data), 'text/csv');
  };
  const saveJson = (): void => {
    const { fields, data } = table();
    const rows = data.map((cells) => Object.fromEntries(fields.map((field, i) => [field, cells[i]])));
    saveFile(`${install.id}-mods.json`, `${JSON.stringify(rows, null, 2)}\n`, 'application/json');
  };
  const publish = async (form: 'markdown' | 'csv'): Promise<string | undefined> => {
    const listed = await query('sharedList', install.id);
    if (listed.length === 0) return 'No mod lies in the folder and no target has one yet: the list would be empty.';
    const title = `${index.game.title}${listed[0]!.build === '' ? '' : ` ${listed[0]!.build}`}`;
    if (form === 'markdown') saveFile(`${install.id}-list.md`, listMarkdown(title, listed), 'text/markdown');
    else {
      const { fields, data } = listCells(listed);
      saveFile(`${install.id}-list.csv`, toCsv(fields, data), 'text/csv');
    }
    return undefined;
  };
  return (
    <Way
      title="From a table"
      can="CSV, JSON or Markdown, one release per row. You map the columns and see every cell that does not fit before anything is imported. A list that somebody published is read too."
    >
      <FileButton
        onChange={(file) =>
          file &&
          void attempt(async () => {
            await readTable(file.name, await bytesOf(file));
            return undefined;
          })
        }
        inputProps={{ 'aria-label': 'Table of mods' }}
      >
        {(props) => (
          <Button variant="default" {...props}>
            Choose a table
          </Button>
        )}
      </FileButton>
      <Textarea
        mt={8}
        label="or paste it"
        rows={3}
        classNames={{ input: 'mono' }}
        placeholder={`${MOD_FIELDS.slice(0, 4).join(',')}\nAnother mod,2.2,up to 3.0,Its loader 1.12 or newer`}
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
      />
      <Buttons>
        <Button
          mt={8}
          variant="default"
          disabled={text.trim() === ''}
          onClick={() => void readTable('pasted table', text)}
        >
          Read the pasted table
        </Button>
      </Buttons>
      {mods.length > 0 && (
        <>
          <Buttons>
            <Button mt={8} size="xs" variant="default" onClick={saveCsv}>
              Your {count(mods.length)} as CSV
            </Button>
            <Button mt={8} size="xs" variant="default" onClick={saveJson}>
              as JSON
            </Button>
          </Buttons>
          <p className="quiet">
            A list to publish has the mods that you play with, by release, build, role and source, in load order.
          </p>
          <Buttons>
            <Button size="xs" variant="default" onClick={() => void attempt(() => publish('markdown'))}>
              List as Markdown
            </Button>
            <Button size="xs" variant="default" onClick={() => void attempt(() => publish('csv'))}>
              List as CSV
            </Button>
          </Buttons>
        </>
      )}
    </Way>
  );
}

const MOST_FOUND = 8;

function FromCatalogue({ view, attempt }: { view: ChooseView; attempt: Attempt }) {
  const { install } = useFrame();
  const [words, setWords] = useState('');
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const fitting = view.catalogue.mods.filter(({ id, name, author, summary, kind }) => {
    const text = `${name} ${author} ${summary} ${kind}`.toLowerCase();
    return !view.weights.has(id) && wanted.every((word) => text.includes(word));
  });
  return (
    <Way
      title="From the catalogue"
      can={`${counted(view.catalogue.mods.length, 'mod')} are known, with what their authors say.`}
    >
      <TextInput
        data-filter
        aria-label="Search the catalogue"
        placeholder="Name, author, what it does"
        value={words}
        onChange={(event) => setWords(event.currentTarget.value)}
      />
      {fitting.length === 0 && <p className="quiet">{words ? 'No other mod fits.' : 'All of them are yours.'}</p>}
      <ul className={styles.found}>
        {fitting.slice(0, MOST_FOUND).map((mod) => (
          <li key={mod.id}>
            <span>
              {mod.name} <span className="quiet">{mod.summary}</span>
            </span>
            <Button
              size="compact-xs"
              variant="default"
              aria-label={`Want ${mod.name}`}
              onClick={() =>
                void attempt(async () => {
                  await wantMods(install.id, new Map([[mod.id, 'want']]));
                  return `${mod.name} was added to your mods.`;
                })
              }
            >
              Want it
            </Button>
          </li>
        ))}
      </ul>
      {fitting.length > MOST_FOUND && <p className="quiet">and {count(fitting.length - MOST_FOUND)} more</p>}
    </Way>
  );
}

function Selected({ mod, view, attempt }: { mod: Mod; view: ChooseView; attempt: Attempt }) {
  const { install } = useFrame();
  return (
    <>
      <Section>{mod.name}</Section>
      <p className="quiet">
        {mod.summary} {authorWords(mod)} {counted(mod.releases.length, 'release')}.
      </p>
      <WhatIf mod={mod} weight={view.weights.get(mod.id)} />
      {view.ownMods.has(mod.id) && (
        <>
          <p className="quiet">Some of these details are your own.</p>
          <Button
            mb={8}
            size="xs"
            variant="default"
            onClick={() =>
              void attempt(async () => {
                await forgetOwnMod(install.id, mod.id);
                return `Your details of ${mod.name} were removed.`;
              })
            }
          >
            Remove my details of {mod.name}
          </Button>
        </>
      )}
    </>
  );
}
