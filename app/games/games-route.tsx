import { Button, FileButton } from '@mantine/core';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useNavigate, useRouteError } from 'react-router';
import { addGameOf, bytesOf, importGame, pageOfImported } from '~/commands';
import { Backup } from '~/parts/Backup';
import { FailurePage } from '~/parts/FailurePage';
import { counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Ago, Buttons, Notice } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import { useAttempt } from '~/parts/use-attempt';
import { useQuery } from '~/queries';
import { type GameRecord, getHold, getSurvey, type Install, listGames, listInstalls } from '~/store';
import { RuleFields, TitleField, useGameForm } from './GameForm';
import styles from './games.module.css';
import { GamesPage } from './GamesPage';

interface Glance {
  readonly install: Install;
  readonly checkedAt: number | undefined;
  readonly held: string | undefined;
}

async function glanceAt(install: Install): Promise<Glance> {
  const [survey, hold] = await Promise.all([getSurvey(install), getHold(install.id)]);
  return { install, checkedAt: survey?.at, held: hold?.sheet.build };
}

// The parameter tells React Router’s types that this runs in the browser, so that handles stay what they are.
export async function clientLoader(_: ClientLoaderFunctionArgs) {
  const [games, installs] = await Promise.all([listGames(), listInstalls()]);
  return { games, glances: await Promise.all(installs.map(glanceAt)) };
}
clientLoader.hydrate = true as const;

export function HydrateFallback() {
  return <Opening what="Regressum" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

/** Where everything begins: the games, each with its folders and how they stand. */
export default function Games() {
  const { games, glances } = useLoaderData<typeof clientLoader>();
  const isNew = games.length === 0;
  return (
    <GamesPage title={isNew ? 'Take a game back to the build its mods support' : 'Your games'}>
      {isNew ? <Welcome /> : <p className="quiet">Each with its folders and how they stand.</p>}
      {games.map((game) => (
        <Game key={game.id} game={game} glances={glances.filter(({ install }) => install.game === game.id)} />
      ))}
      <div className={styles.columns}>
        <AddGame />
        <div>
          <h2>Look around first</h2>
          <p className="quiet">
            The demo is a made-up game that updated itself and lost half of its mods. It is laid out on the browser
            disk, about 80 MB, and everything works on it.
          </p>
          <Button component={Link} to="/demo" variant={isNew ? 'filled' : 'default'}>
            Open the demo
          </Button>
          <Backup />
        </div>
      </div>
    </GamesPage>
  );
}

function Welcome() {
  return (
    <div style={{ maxWidth: 720 }}>
      <ol className={styles.steps}>
        <li>
          <strong>Survey</strong> which build lies in the game’s folder, file by file.
        </li>
        <li>
          <strong>Choose</strong> the build that most of your mods run on.
        </li>
        <li>
          <strong>Fetch</strong> what that build has and your disk does not.
        </li>
        <li>
          <strong>Assemble</strong> it in the folder, every byte checked, and back again if you like.
        </li>
        <li>
          <strong>Hold</strong> it there, and <strong>mend</strong> your mods when you go on to a newer build.
        </li>
      </ol>
      <p>Add your game below: a title is enough to begin.</p>
    </div>
  );
}

/** How a folder stands: by what is known at once, and by its last check as soon as that is worked out. */
function Folder({ glance: { install, checkedAt, held } }: { glance: Glance }) {
  const { target, arrived } = install;
  const isChecked = arrived && checkedAt !== undefined;
  const { value: view } = useQuery('frame', isChecked ? [install.id] : undefined, `${checkedAt} ${install.changedAt}`);
  const drift = view?.held?.drift ?? 0;
  const words = [
    !arrived && 'being laid out',
    arrived && checkedAt === undefined && 'not checked yet',
    view?.likeliest !== undefined && `at ${view.likeliest}`,
    view?.lostNow ? `${counted(view.lostNow, 'mod')} lost` : false,
    held !== undefined && `held at ${held}`,
    drift > 0 && `${counted(drift, 'file')} drifted`,
    held === undefined && target && target.build !== view?.likeliest && `target ${target.build}`,
  ].filter((some) => typeof some === 'string');
  return (
    <Link to={`/${install.id}/survey`} className={styles.folder} data-attention={drift > 0 || undefined}>
      <strong>{install.title}</strong>
      <span className="quiet">{placeWords(install.place)}</span>
      <span>
        {words.join(' · ')}
        {checkedAt !== undefined && (
          <span className="quiet">
            {words.length > 0 && ' · '}checked <Ago at={checkedAt} />
          </span>
        )}
      </span>
    </Link>
  );
}

function Game({ game, glances }: { game: GameRecord; glances: readonly Glance[] }) {
  return (
    <section className={styles.game} aria-label={game.title}>
      <div className={styles.gameHead}>
        <h2>{game.title}</h2>
        <span className={`quiet ${styles.grow}`}>
          {counted(glances.length, 'folder')} · {counted(game.sources.length, 'source')}
        </span>
        <Button component={Link} to={`/games/${game.id}`} size="xs" variant="default">
          Sources, rules, add a folder
        </Button>
      </div>
      {glances.length === 0 && (
        <p className="quiet">
          No folder yet.{' '}
          <Link className="link" to={`/games/${game.id}`}>
            Add the game’s folder
          </Link>{' '}
          to see what is in it.
        </p>
      )}
      {glances.map((glance) => (
        <Folder key={glance.install.id} glance={glance} />
      ))}
    </section>
  );
}

/** A game is added by its title, or from a file that somebody handed on. */
function AddGame() {
  const navigate = useNavigate();
  const { form, read } = useGameForm();
  const { failure, busy, attempt } = useAttempt();
  const imported = (file: File): void =>
    attempt(async () => {
      const text = new TextDecoder('utf-8', { fatal: true }).decode(await bytesOf(file));
      await navigate(pageOfImported(await importGame(text, file.name)));
    });
  return (
    <form
      onSubmit={form.onSubmit(() =>
        attempt(async () => {
          const game = await read();
          if (game) await navigate(`/games/${await addGameOf(game)}`);
        }),
      )}
    >
      <h2>Add a game</h2>
      <TitleField form={form} />
      <details className={styles.folded}>
        <summary>Where it keeps saves, settings and mods (can wait)</summary>
        <RuleFields form={form} />
      </details>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button type="submit" disabled={busy}>
          Add this game
        </Button>
        <FileButton
          accept=".json,application/json"
          onChange={(file) => file && imported(file)}
          inputProps={{ 'aria-label': 'File of a game' }}
        >
          {(props) => (
            <Button variant="default" {...props}>
              Import a game’s file…
            </Button>
          )}
        </FileButton>
      </Buttons>
    </form>
  );
}
