import { Checkbox, TextInput } from '@mantine/core';
import { CHECKSUM_KINDS, type DigestInText, type MistypedDigest } from '#core/lists';
import { shortenMiddle } from '#core/text';
import { Copyable } from '~/parts/Copyable';
import { count, counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { fromWords } from '~/parts/stray-words';
import type { KnownDigest, ReadLog } from '~/queries';
import styles from './log.module.css';

const KIND_WORDS = { 'sha-256': 'SHA-256', 'sha-1': 'SHA-1', md5: 'MD5', 'crc-32': 'CRC-32' } as const;
const MOST_SHOWN = 200;

function knownWords(known: KnownDigest): string {
  switch (known.kind) {
    case 'build':
      return `${known.path} of ${known.builds.join(', ')}`;
    case 'mod':
      return `${known.name} ${known.release}: ${known.path}`;
    case 'learned':
      return `${known.path} of ${known.label}, ${fromWords(known.from)}`;
  }
}

const mistypedWords = ({ line, column, found, expected }: MistypedDigest): string =>
  `Line ${line}, column ${column}: "${shortenMiddle(found, 40)}" is not a ${KIND_WORDS[expected]} checksum: it has ${counted(found.length, 'character')} instead of ${CHECKSUM_KINDS[expected]} hexadecimal digits.`;

/** The checksums of a log with what is known of each; those that are chosen get a path. */
export function Found({
  log,
  wanted,
  onWanted,
}: {
  log: ReadLog;
  wanted: ReadonlyMap<string, string>;
  onWanted: (wanted: ReadonlyMap<string, string>) => void;
}) {
  const choose = (digest: string, path: string | undefined): void => {
    const next = new Map(wanted);
    if (path === undefined) next.delete(digest);
    else next.set(digest, path);
    onWanted(next);
  };
  return (
    <>
      {log.mistyped.map((one) => (
        <Notice key={`${one.line}:${one.column}`} tone="wrong">
          {mistypedWords(one)}
        </Notice>
      ))}
      {log.digests.length === 0 && <Notice>{log.name} contains no checksums.</Notice>}
      {log.digests.length > 0 && (
        <table className={parts.table}>
          <thead>
            <tr>
              <th>Line</th>
              <th>Checksum</th>
              <th>Identified as</th>
              <th>Record as path</th>
            </tr>
          </thead>
          <tbody>
            {log.digests.slice(0, MOST_SHOWN).map((one, i) => (
              <Row key={one.digest} one={one} known={log.known[i]!} path={wanted.get(one.digest)} choose={choose} />
            ))}
          </tbody>
        </table>
      )}
      {log.digests.length > MOST_SHOWN && <p className="quiet">and {count(log.digests.length - MOST_SHOWN)} more</p>}
    </>
  );
}

function Row({
  one: { digest, kind, line, column, path: guess },
  known,
  path,
  choose,
}: {
  one: DigestInText;
  known: readonly KnownDigest[];
  path: string | undefined;
  choose: (digest: string, path: string | undefined) => void;
}) {
  return (
    <tr>
      <td className="mono" title={`column ${column}`}>
        {line}
      </td>
      <td>
        {KIND_WORDS[kind]} <code title={digest}>{shortenMiddle(digest, 16)}</code>{' '}
        <Copyable text={digest} what="checksum" />
      </td>
      <td>
        {known.length === 0 ? (
          <span className={styles.unknown}>unknown</span>
        ) : (
          known.map((what) => <div key={knownWords(what)}>{knownWords(what)}</div>)
        )}
      </td>
      <td>
        <div className={styles.path}>
          <Checkbox
            size="xs"
            aria-label={`Record the checksum of line ${line}`}
            checked={path !== undefined}
            onChange={() => choose(digest, path === undefined ? (guess ?? '') : undefined)}
          />
          {path !== undefined && (
            <TextInput
              size="xs"
              aria-label={`Path for the checksum of line ${line}`}
              value={path}
              onChange={(event) => choose(digest, event.currentTarget.value)}
            />
          )}
        </div>
      </td>
    </tr>
  );
}
