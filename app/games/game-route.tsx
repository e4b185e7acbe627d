import { Button, FileButton, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import {
  type ClientLoaderFunctionArgs,
  Link,
  useLoaderData,
  useNavigate,
  useRouteError,
  useSearchParams,
} from 'react-router';
import { type DepotIndex, isPartOf, leastOwnership } from '#core/builds';
import {
  addAddress,
  askSourcesAgain,
  bytesOf,
  changeRules,
  duplicateGame,
  exportGame,
  forgetGame,
  forgetRecorded,
  moveRecorded,
  handFiles,
  type NewFolder,
  recordedArchive,
  removeSource,
} from '~/commands';
import { useAdding } from '~/parts/add-folder/use-adding';
import { FailurePage } from '~/parts/FailurePage';
import { counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Buttons, Notice } from '~/parts/parts';
import { saveBlob, saveFile } from '~/parts/save-file';
import { useAttempt } from '~/parts/use-attempt';
import { query } from '~/queries';
import { type GameRecord, type GameSource, getCatalogue, getGame, getIndex, getSurvey, listInstalls } from '~/store';
import { type Matches, RuleFields, TitleField, useGameForm } from './GameForm';
import styles from './games.module.css';
import { GamesPage } from './GamesPage';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const game = await getGame(params.game!);
  const [index, { mods }, all] = await Promise.all([getIndex(game.id), getCatalogue(game.id), listInstalls()]);
  const installs = all.filter((install) => install.game === game.id);
  const surveys = await Promise.all(installs.map((install) => getSurvey(install)));
  const at = surveys.findIndex((survey) => survey !== undefined);
  const tried = at < 0 ? undefined : { title: installs[at]!.title, paths: surveys[at]!.paths };
  return { game, index, mods: mods.length, installs, tried, recorded: await query('recorded', game.id) };
}
clientLoader.hydrate = true as const;

export function HydrateFallback() {
  return <Opening what="the game" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

/** One game: who tells of it, where it keeps what, and its folders. */
export default function GamePage() {
  const { game, index, mods, installs, tried, recorded } = useLoaderData<typeof clientLoader>();
  return (
    <GamesPage title={game.title} game={game.id}>
      <p className="quiet">
        {counted(index.builds.length, 'build')}, {counted(index.depots.length, 'depot')}
        {mods > 0 && `, ${counted(mods, 'mod')}`} known.{' '}
        {installs.map(({ id, title }) => (
          <Link key={id} to={`/${id}/survey`} className="link" style={{ marginRight: 12 }}>
            Open {title}
          </Link>
        ))}
      </p>
      <Next builds={index.builds.length} folders={installs.length} />
      <div className={styles.columns}>
        <div>
          <Sources key={`sources ${game.sources.map(({ id }) => id).join()}`} game={game} />
          <Adding key={`depots ${index.depots.map(({ id }) => id).join()}`} index={index} usual={installs[0]} />
        </div>
        <div>
          <Rules key={JSON.stringify([game.title, game.rules])} game={game} tried={tried} />
          <Recorded game={game} builds={recorded} />
          <Whole game={game} folders={installs.length} />
        </div>
      </div>
    </GamesPage>
  );
}

/** What comes next for a game of which little is known; nothing once it has a build and a folder. */
function Next({ builds, folders }: { builds: number; folders: number }) {
  if (builds > 0 && folders > 0) return null;
  return (
    <Notice>
      {builds === 0
        ? 'No build is known yet. Name a source that tells of them, or add a folder and record what lies in it as the first build.'
        : 'Builds are known. Add the game’s folder to see which one lies in it.'}
    </Notice>
  );
}

/** To add a folder of the game, as the last one is owned. */
function Adding({ index, usual }: { index: DepotIndex; usual: Pick<NewFolder, 'ownership' | 'weights'> | undefined }) {
  const { ways, form } = useAdding(index, usual ?? { ownership: leastOwnership(index), weights: [] });
  return (
    <section aria-label="Folders" className={styles.block}>
      <div className={styles.inset}>
        {form}
        {ways}
      </div>
    </section>
  );
}

function sourceTitle(source: GameSource): string {
  switch (source.kind) {
    case 'service':
      return 'The stand-ins of this server';
    case 'address':
      return source.href;
    case 'handed':
      return source.title;
    case 'recorded':
      return 'Recorded here';
  }
}

/** Who tells of the game's builds and mods, and to add another one. */
function Sources({ game }: { game: GameRecord }) {
  const [params, setParams] = useSearchParams();
  const { failure, busy, attempt } = useAttempt();
  const [of, setOf] = useState<'builds' | 'mods'>('builds');
  const [href, setHref] = useState('');
  const known = new Set(game.sources.map(sourceTitle));
  const offered = (['builds', 'mods'] as const).flatMap((kind) =>
    params.getAll(kind).flatMap((address) => (known.has(address) ? [] : [{ kind, address }])),
  );
  const dismiss = (kind: string, address: string): void =>
    setParams((now) => {
      now.delete(kind, address);
      return now;
    });
  return (
    <section aria-label="Sources">
      <h2>Sources</h2>
      <p className="quiet">
        Where Regressum learns which builds and mods there are: addresses, which the server on this machine asks, or
        files (an index, a catalogue, manifests).
      </p>
      {game.sources.map((source) => (
        <div key={source.id} className={styles.source}>
          <span className={styles.href}>{sourceTitle(source)}</span>
          <span className="quiet">
            {source.kind === 'service' ? 'builds and mods' : source.of}
            {source.kind === 'handed' && ', handed over'}
          </span>
          {source.kind !== 'recorded' && (
            <Button size="xs" variant="default" onClick={() => attempt(() => removeSource(game.id, source.id))}>
              Remove<span className="unseen"> {sourceTitle(source)}</span>
            </Button>
          )}
        </div>
      ))}
      {offered.map(({ kind, address }) => (
        <Notice key={address}>
          The game’s file names this address for {kind}: <strong>{address}</strong>. Ask it?
          <Buttons>
            <Button size="xs" disabled={busy} onClick={() => attempt(() => addAddress(game.id, kind, address, 'told'))}>
              Add this source
            </Button>
            <Button size="xs" variant="default" onClick={() => dismiss(kind, address)}>
              Leave it out
            </Button>
          </Buttons>
        </Notice>
      ))}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          attempt(async () => {
            await addAddress(game.id, of, href);
            setHref('');
          });
        }}
      >
        <Select
          mt={8}
          label="It tells of"
          allowDeselect={false}
          data={[
            { value: 'builds', label: 'builds (an index)' },
            { value: 'mods', label: 'mods (a catalogue)' },
          ]}
          value={of}
          onChange={(value) => value && setOf(value as 'builds' | 'mods')}
        />
        <TextInput
          mt={8}
          label="Address"
          placeholder="https://example.org/game/index.json"
          value={href}
          onChange={(event) => setHref(event.currentTarget.value)}
        />
        {failure && <Notice tone="wrong">{failure}</Notice>}
        <Buttons>
          <Button type="submit" disabled={busy || href.trim() === ''}>
            {busy ? 'Asking' : 'Add this address'}
          </Button>
          <FileButton
            multiple
            accept=".json,.meta4,.metalink,application/json"
            onChange={(files) =>
              files.length > 0 &&
              attempt(async () =>
                handFiles(
                  game.id,
                  await Promise.all(files.map(async (file) => ({ name: file.name, bytes: await bytesOf(file) }))),
                ),
              )
            }
            inputProps={{ 'aria-label': 'Indexes, catalogues or manifests' }}
          >
            {(props) => (
              <Button variant="default" {...props}>
                Add from files…
              </Button>
            )}
          </FileButton>
          {game.sources.some(({ kind }) => kind === 'address') && (
            <Button variant="default" disabled={busy} onClick={() => attempt(() => askSourcesAgain(game.id))}>
              Ask all again
            </Button>
          )}
        </Buttons>
      </form>
    </section>
  );
}

/** Where the game keeps what, tried on a folder of it while it is typed. */
function Rules({ game, tried }: { game: GameRecord; tried: { title: string; paths: readonly string[] } | undefined }) {
  const { failure, busy, attempt } = useAttempt();
  const { form, read } = useGameForm(game);
  const matches: Matches | undefined = tried && ((paths) => matchWords(paths, tried));
  return (
    <form
      aria-label="Rules"
      onSubmit={form.onSubmit(() =>
        attempt(async () => {
          const typed = await read();
          if (typed) await changeRules(game.id, typed);
        }),
      )}
    >
      <h2>Rules</h2>
      <TitleField form={form} />
      <RuleFields form={form} {...(matches && { matches })} />
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Button mt={10} type="submit" variant="default" disabled={busy || !form.isDirty()}>
        Save the rules
      </Button>
    </form>
  );
}

/** How many files of a folder lie at paths or below them; nothing where no path is given. */
function matchWords(paths: readonly string[], { title, paths: files }: { title: string; paths: readonly string[] }) {
  if (paths.length === 0) return undefined;
  const count = files.filter((file) => paths.some((path) => isPartOf(file, path))).length;
  const most = files.length > 1 && count > files.length / 2 ? ': that is most of the game' : '';
  return `${counted(count, 'file')} in ${title}${most}`;
}

/** Builds that were recorded from own folders, or declared: to forget, or to hand on. */
function Recorded({
  game,
  builds,
}: {
  game: GameRecord;
  builds: Awaited<ReturnType<typeof clientLoader>>['recorded'];
}) {
  const { failure, attempt, busy } = useAttempt();
  if (builds.length === 0) return null;
  return (
    <section aria-label="Recorded builds" style={{ marginTop: 24 }}>
      <h2>Recorded builds</h2>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {builds.map(({ label, date, files }) => (
        <div key={label} className={styles.source}>
          <span className={styles.href}>{label}</span>
          <span className="quiet">{files === undefined ? 'declared, files unknown' : counted(files, 'file')}</span>
          <TextInput
            size="xs"
            type="date"
            aria-label={`Date of ${label}`}
            key={date}
            defaultValue={date}
            // Not while it is typed: a year that is half typed is one too.
            onBlur={({ currentTarget: { value } }) =>
              value !== '' && value !== date && attempt(() => moveRecorded(game.id, label, value))
            }
          />
          <Button
            size="xs"
            variant="default"
            disabled={busy}
            onClick={() => attempt(() => forgetRecorded(game.id, label))}
          >
            Forget<span className="unseen"> {label}</span>
          </Button>
        </div>
      ))}
      {builds.some(({ files }) => files !== undefined) && (
        <>
          <p className="quiet">
            As a source they go into one small archive: what the files are, and none of them. Unpacked on any web server
            its index.json is an address for others.
          </p>
          <Button
            size="xs"
            variant="default"
            disabled={busy}
            onClick={() => attempt(async () => saveBlob(`${game.id}-source.zip`, await recordedArchive(game.id)))}
          >
            Export as a source
          </Button>
        </>
      )}
    </section>
  );
}

/** The game as a whole: to hand on, or to remove. */
function Whole({ game, folders }: { game: GameRecord; folders: number }) {
  const navigate = useNavigate();
  const { failure, attempt } = useAttempt();
  const [asked, setAsked] = useState(false);
  return (
    <section aria-label="The game as a whole" style={{ marginTop: 24 }}>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button
          size="xs"
          variant="default"
          onClick={() =>
            attempt(async () =>
              saveFile(`${game.id}.game.json`, JSON.stringify(await exportGame(game.id), null, 2), 'application/json'),
            )
          }
        >
          Export the game’s file
        </Button>
        <Button
          size="xs"
          variant="default"
          onClick={() => attempt(async () => navigate(`/games/${await duplicateGame(game.id)}`))}
        >
          Duplicate it
        </Button>
        {!asked && (
          <Button size="xs" variant="default" disabled={folders > 0} onClick={() => setAsked(true)}>
            Remove {game.title}
          </Button>
        )}
      </Buttons>
      {folders > 0 && <p className="quiet">To remove the game, first remove its {counted(folders, 'folder')}.</p>}
      {asked && (
        <div role="group" aria-label={`Remove ${game.title}`}>
          <p>
            Its rules and sources, builds that you recorded and mods that you added to it are deleted. No file is
            touched.
          </p>
          <Buttons>
            <Button
              size="xs"
              onClick={() =>
                attempt(async () => {
                  await forgetGame(game.id);
                  await navigate('/games');
                })
              }
            >
              Remove it
            </Button>
            <Button size="xs" variant="default" onClick={() => setAsked(false)}>
              Cancel
            </Button>
          </Buttons>
        </div>
      )}
    </section>
  );
}
