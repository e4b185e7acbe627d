import { Button, FileButton, Textarea, TextInput } from '@mantine/core';
import { useEffect, useEffectEvent, useState } from 'react';
import { Link, type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import type { DigestInText } from '#core/lists';
import { useFrame } from '~/parts/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { errorWords } from '~/parts/failure-words';
import { count, counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Ago, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { fromWords } from '~/parts/stray-words';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type Given, query, type ReadLog } from '~/queries';
import { bytesOf, type HandedText, readHandedTexts } from '~/commands';
import { broadcast, getInstall, listLearned, removeLearned } from '~/store';
import { Found } from './Found';
import styles from './log.module.css';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const { game } = await getInstall(params.install!);
  return (await listLearned(game)).map(({ id, label, at, from, paths }) => ({
    id,
    label,
    at,
    from,
    files: paths.length,
  }));
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="the logs" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

const MAX_BYTES = 16e6;

export default function Logs() {
  const records = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  const [text, setText] = useState('');
  const [log, setLog] = useState<ReadLog>();
  const [wanted, setWanted] = useState<ReadonlyMap<string, string>>(new Map());
  const [failure, setFailure] = useState<string>();

  async function read(name: string, given: Given): Promise<void> {
    try {
      const found = await query('readLog', install.id, given, name);
      setLog(found);
      // What nobody knows, and what has a path, is most likely what the person came for.
      const unknown = found.digests.filter(({ path }, i) => found.known[i]!.length === 0 && path !== undefined);
      setWanted(new Map(unknown.map(({ digest, path }) => [digest, path!])));
      setFailure(undefined);
    } catch (error) {
      setFailure(errorWords(error).what);
    }
  }

  async function readFile(file: File): Promise<void> {
    if (file.size > MAX_BYTES) setFailure(`${file.name} is larger than a log can be.`);
    else await read(file.name, await bytesOf(file));
  }

  const readHanded = useEffectEvent(({ name, bytes }: HandedText) => void read(name, bytes));
  useEffect(() => readHandedTexts(readHanded), []);

  return (
    <StagePage
      title="Logs"
      left={<Records records={records} />}
      middle={
        <div
          className={styles.page}
          onDragOver={(event) => event.preventDefault()}
          onDrop={(event) => {
            event.preventDefault();
            const [file] = event.dataTransfer.files;
            if (file) void readFile(file);
          }}
        >
          <h2>Checksums in a log</h2>
          <p className="quiet">
            Some loaders log the checksum of a file they do not recognise. Paste the log or drop the file: each checksum
            is compared with everything known.
          </p>
          <Textarea
            aria-label="Log"
            placeholder="unknown program bin/game.prog, SHA-256 3f79bb7b…"
            rows={6}
            classNames={{ input: 'mono' }}
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
          <div className={styles.buttons}>
            <Button disabled={text.trim() === ''} onClick={() => void read('pasted log', text)}>
              Find checksums
            </Button>
            <FileButton onChange={(file) => file && void readFile(file)} inputProps={{ 'aria-label': 'Log file' }}>
              {(props) => (
                <Button variant="default" {...props}>
                  Choose a log file
                </Button>
              )}
            </FileButton>
          </div>
          {failure && <Notice tone="wrong">{failure}</Notice>}
          {log && <Found log={log} wanted={wanted} onWanted={setWanted} />}
        </div>
      }
      right={
        <>
          <Section>Findings</Section>
          <p className="quiet">
            {log
              ? `${counted(log.digests.length, 'checksum')}, ${count(log.known.filter((some) => some.length === 0).length)} of them unknown.`
              : 'No log read yet.'}
          </p>
          {log && <RecordForm key={log.name} log={log} wanted={wanted} />}
          <Link className="link" to={`/${install.id}/survey`}>
            Back to Survey
          </Link>
        </>
      }
    />
  );
}

/** Puts the chosen checksums under a label. */
function RecordForm({ log, wanted }: { log: ReadLog; wanted: ReadonlyMap<string, string> }) {
  const { game } = useFrame().install;
  const [label, setLabel] = useState('');
  const [done, setDone] = useState<string>();
  const name = label.trim();
  const chosen = log.digests.filter(({ digest }) => wanted.get(digest)?.trim());
  const record = async (digests: readonly DigestInText[]): Promise<void> => {
    await query(
      'recordDigests',
      game,
      name,
      log.name,
      digests.map(({ digest }) => ({ digest, path: wanted.get(digest)!.trim() })),
    );
    setDone(`${counted(digests.length, 'checksum')} recorded as ${name}.`);
    broadcast({ type: 'changed' });
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void record(chosen);
      }}
    >
      <TextInput
        label="Label for the selected checksums"
        placeholder="1.4 of the disc"
        maxLength={40}
        value={label}
        onChange={(event) => setLabel(event.currentTarget.value)}
      />
      <Button my={8} type="submit" disabled={name === '' || chosen.length === 0}>
        Record {counted(chosen.length, 'checksum')} {name && `as ${name}`}
      </Button>
      {done && <Notice tone="right">{done}</Notice>}
    </form>
  );
}

function Records({ records }: { records: Awaited<ReturnType<typeof clientLoader>> }) {
  const forget = async (id: string): Promise<void> => {
    await removeLearned(id);
    broadcast({ type: 'changed' });
  };
  return (
    <>
      <div className={`label ${parts.heading}`}>Recorded builds</div>
      {records.length === 0 && <p className={`quiet ${parts.item}`}>None yet.</p>}
      {records.map(({ id, label, at, from, files }) => (
        <div key={id} className={parts.item}>
          <span className={parts.grow}>
            {label}
            <div className="quiet">
              {counted(files, 'file')}, {fromWords(from)}, <Ago at={at} />
            </div>
          </span>
          <Button size="compact-xs" variant="default" onClick={() => void forget(id)} aria-label={`Forget ${label}`}>
            Forget
          </Button>
        </div>
      ))}
    </>
  );
}
