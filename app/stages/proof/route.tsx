import { Button } from '@mantine/core';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import type { ProvenPart } from '#core/assemble';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { Copyable } from '~/parts/Copyable';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted, duration, exactTime } from '~/parts/format';
import { modNames } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, Notice, Pairs, Section } from '~/parts/parts';
import { Stale } from '~/parts/Stale';
import paper from '~/parts/paper.module.css';
import parts from '~/parts/parts.module.css';
import { saveFile } from '~/parts/save-file';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { useFrame } from '~/parts/use-frame';
import { type ProofView, query } from '~/queries';
import { getCatalogue, getInstall } from '~/store';
import styles from './proof.module.css';
import { proofText } from './proof-text';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const [view, install] = await Promise.all([query('proof', params.install!), getInstall(params.install!)]);
  return { view, names: modNames(await getCatalogue(install.game)) };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="the proof" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

/** A page to keep: what should lie in the folder, what does, by whom it was laid down and when it was read. */
export default function ProofPage() {
  const { view, names } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  const check = useLatestJob(install.id, 'survey');
  const busy = check !== undefined && isUnderWay(check);
  if (!view) {
    return (
      <StagePage
        title="Proof"
        middle={
          <Empty
            title="Nothing to prove yet"
            action={
              <Button component={Link} to={`/${install.id}/survey`}>
                Open Survey
              </Button>
            }
          >
            Select a build and check every file: the proof holds each byte of the folder against it.
          </Empty>
        }
        right={null}
      />
    );
  }
  const { proof, build, at, trusted } = view;
  const isRight = proof.wrong.length === 0;
  const text = (): string => proofText(view, install, names);
  return (
    <StagePage
      title="Proof"
      middle={<Sheet view={view} names={names} />}
      right={
        <>
          <div className="label">{isRight ? 'Proven' : 'Not as it should be'}</div>
          <h2 className={parts.big}>{build}</h2>
          <Pairs
            rows={[
              { name: 'Files right', value: `${count(proof.right.files)} of ${count(proof.expected.files)}` },
              { name: 'Bytes right', value: `${bytes(proof.right.bytes)} of ${bytes(proof.expected.bytes)}` },
              { name: 'Read', value: exactTime(at) },
            ]}
          />
          {trusted > 0 && (
            <Notice>
              {counted(trusted, 'file')} {trusted === 1 ? 'was' : 'were'} not read again, since size and time were the
              same. Check every file to have all bytes read.
            </Notice>
          )}
          {!view.fresh && <Stale>Check it again.</Stale>}
          <Section>Work it out again</Section>
          <p className="quiet">
            The tree digest is the SHA-256 of one line a file, its content key, two spaces and its path, sorted by path.
            Whoever has the manifests and the mods comes to the same
            {proof.asFound > 0 ? ', with your settings of mods' : ''}.
          </p>
          <p>
            <Copyable text={proof.expectedDigest} what="tree digest" />
          </p>
        </>
      }
      action={
        <Buttons>
          <Button disabled={busy} onClick={() => void jobs.start('survey', install.id)}>
            Check {counted(proof.expected.files, 'file')} again
          </Button>
          <Button variant="default" onClick={() => window.print()}>
            Print
          </Button>
          <Button
            variant="default"
            onClick={() => saveFile(`${install.game}-${build}.proof.txt`, text(), 'text/plain')}
          >
            Download as text
          </Button>
        </Buttons>
      }
    />
  );
}

function ownerName({ owner }: ProvenPart, view: ProofView, names: ReadonlyMap<string, string>): string {
  switch (owner.kind) {
    case 'depot':
      return view.depots.get(owner.depot) ?? owner.depot;
    case 'mod':
      return `${names.get(owner.mod) ?? owner.mod} ${owner.release}`;
    case 'written':
      return 'Written by Regressum: the list of mods';
  }
}

function Sheet({ view, names }: { view: ProofView; names: ReadonlyMap<string, string> }) {
  const { install, index } = useFrame();
  const { proof, build, at, laid } = view;
  const isRight = proof.wrong.length === 0;
  return (
    <article className={paper.sheet} aria-label="Proof" data-print data-proof>
      <header>
        <span className="label">Proof of a folder</span>
        <h2>
          {index.game.title} {build}
        </h2>
        <p>
          {install.folder}. Read {exactTime(at)}.
          {laid &&
            ` Laid down ${exactTime(laid.at)}${laid.seconds === undefined ? '' : ` in ${duration(laid.seconds)}`}.`}
        </p>
        <p>
          Expected <code>{proof.expectedDigest}</code>
          <br />
          Found <code>{proof.foundDigest}</code>
        </p>
        <p className={styles.verdict} data-right={isRight}>
          {isRight
            ? `All ${count(proof.expected.files)} files are right, byte for byte.`
            : `${counted(proof.expected.files - proof.right.files, 'file')} of ${count(proof.expected.files)} not right.`}
        </p>
        {proof.asFound > 0 && (
          <p>
            {counted(proof.asFound, 'setting')} of mods {proof.asFound === 1 ? 'counts' : 'count'} as{' '}
            {proof.asFound === 1 ? 'it lies' : 'they lie'} there: you have set {proof.asFound === 1 ? 'it' : 'them'}.
          </p>
        )}
      </header>
      <table>
        <thead>
          <tr>
            <th>Whose files, in laying order</th>
            <th>Expected</th>
            <th>Right</th>
            <th>Bytes</th>
            <th>Covered</th>
          </tr>
        </thead>
        <tbody>
          {proof.parts.map((part) => (
            <tr
              key={ownerName(part, view, names)}
              className={part.right.files === part.expected.files ? undefined : styles.wrong}
            >
              <td>{ownerName(part, view, names)}</td>
              <td>{count(part.expected.files)}</td>
              <td>{count(part.right.files)}</td>
              <td>{bytes(part.right.bytes)}</td>
              <td>{part.covered === 0 ? '' : count(part.covered)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {!isRight && (
        <>
          <h3>Not right</h3>
          <ul>
            {proof.wrong.map((path) => (
              <li key={path}>
                <code>{path}</code>
              </li>
            ))}
          </ul>
        </>
      )}
    </article>
  );
}
