import { CopyButton } from '@mantine/core';
import type { Decision } from '#core/choose';
import type { HoldSheet } from '#core/hold';
import { shortenMiddle } from '#core/text';
import { bytes, count, counted, exactTime } from '~/parts/format';
import paper from '~/parts/paper.module.css';
import styles from './hold.module.css';

/** The hold sheet as a document that one would print. */
export function SheetPage({ sheet, held }: { sheet: HoldSheet; held: boolean }) {
  const { game, build, heldAt, treeDigest, depots, releases, files, bytes: size, ownership } = sheet;
  return (
    <article className={paper.sheet} aria-label="Hold sheet" data-print>
      <header>
        <span className="label">{held ? 'Hold sheet' : 'Hold sheet, not in effect yet'}</span>
        <h2>
          {game.title} {build}
        </h2>
        <p>
          {held ? `Held ${exactTime(Date.parse(heldAt))}` : 'Ready to hold'} · {count(files)} files · {bytes(size)}
          {ownership.language !== '' && ` · language ${ownership.language}`}
        </p>
        <p>
          Tree digest <code title={treeDigest}>{shortenMiddle(treeDigest, 34)}</code>{' '}
          <CopyButton value={treeDigest}>
            {({ copied, copy }) => (
              <button type="button" className={styles.copy} onClick={copy}>
                {copied ? 'copied' : 'copy'}
              </button>
            )}
          </CopyButton>
        </p>
      </header>
      <h3>Depots, in laying order</h3>
      <table>
        <tbody>
          {depots.map(({ id, files: n, bytes: depotBytes, manifestSha256 }) => (
            <tr key={id}>
              <td>{id}</td>
              <td>{count(n)} files</td>
              <td>{bytes(depotBytes)}</td>
              <td>
                <code title={manifestSha256}>{manifestSha256.slice(0, 12)}</code>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {sheet.decision && <WhyThisBuild decision={sheet.decision} />}
      <h3>{counted(releases.length, 'mod')}</h3>
      <ul className={styles.releases}>
        {releases.map(({ mod, name, release }) => (
          <li key={mod}>
            {name} <code>{release}</code>
          </li>
        ))}
      </ul>
    </article>
  );
}

function WhyThisBuild({ decision }: { decision: Decision }) {
  const { at, running, wanted, rolledBack, lost, runnerUp } = decision;
  const mustLost = lost.filter(({ weight }) => weight === 'must').length;
  return (
    <>
      <h3>Why this build</h3>
      <p>
        Decided {exactTime(Date.parse(at))}: {running} of {counted(wanted, 'wanted mod')} run,{' '}
        {count(rolledBack.length)} rolled back,{' '}
        {lost.length === 0 ? 'none lost' : `${count(lost.length)} lost, ${count(mustLost)} of them must-haves`}.
        {runnerUp && ` The next best build, ${runnerUp.build}, would have run ${runnerUp.running}.`}
      </p>
    </>
  );
}
