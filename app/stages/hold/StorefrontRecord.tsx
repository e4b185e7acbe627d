import { Button, Select, TextInput } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { RecordRule } from '#core/builds';
import { forgetRecord, pointAtRecord } from '~/commands';
import { FailureNotice, Notice, Pairs, Section } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { servedRoots, servedToken } from '~/remote';
import type { Install } from '~/store';
import type { RecordView } from './record-view';

/** What the storefront's record says, what holding makes of it, and how to do by hand what cannot be done from here. */
export function StorefrontRecord({ view }: { view: RecordView }) {
  const { install } = useFrame();
  const { rule, now, failure } = view;
  return (
    <section aria-label="Storefront’s record">
      <Section>Storefront’s record</Section>
      {!rule ? (
        <p className="quiet">
          Where the storefront keeps whether it updates this game is not known. Turn updates off there yourself, or{' '}
          <Link className="link" to={`/games/${install.game}`}>
            describe its record
          </Link>{' '}
          once for all folders of the game.
        </p>
      ) : (
        <>
          {failure && <FailureNotice failure={failure} />}
          {now && <Says view={view} rule={rule} now={now} />}
          {!now && !failure && (
            <Notice>
              {placeOf(install, rule)} was not found. Until it is, turn updates off in the storefront yourself.
            </Notice>
          )}
          {install.place.kind === 'served' && view.canChange && (
            <PointAt rule={rule} install={install} found={now !== undefined} />
          )}
        </>
      )}
    </section>
  );
}

const placeOf = ({ record, folder }: Install, rule: RecordRule): string => {
  if (!record) return `${rule.file} in ${folder}`;
  return record.kind === 'disk' ? record.path : [record.folder, record.name].filter(Boolean).join('/');
};

function Says({ view, rule, now }: { view: RecordView; rule: RecordRule; now: NonNullable<RecordView['now']> }) {
  const { install } = useFrame();
  const stops = now.value === rule.stops;
  return (
    <>
      <Pairs
        rows={[
          {
            name: placeOf(install, rule),
            value: now.value === '' ? '(empty)' : now.value,
          },
          {
            name: 'Updates',
            value: stops ? 'stopped' : now.value === rule.goes ? 'come by themselves' : 'unknown value',
          },
          ...(now.isReadOnly === undefined
            ? []
            : [{ name: 'Locked', value: now.isReadOnly ? 'yes, read-only' : 'no' }]),
        ]}
      />
      {!view.canChange && <ByHand rule={rule} value={now.value} />}
      {view.canChange && !view.canLock && stops && (
        <p className="quiet">Browsers cannot lock files. Make {rule.file} read-only in your file manager.</p>
      )}
    </>
  );
}

/** The exact steps, and whether they were done. */
function ByHand({ rule, value }: { rule: RecordRule; value: string }) {
  if (value === rule.stops) return <Notice tone="right">Done: it stops updates. Make it read-only too.</Notice>;
  return (
    <>
      <p className="quiet">It cannot be changed from here. By hand:</p>
      <ol>
        <li>Close the storefront.</li>
        <li>
          Open {rule.file} in a text editor and find <span className="mono">{rule.at}</span>.
        </li>
        <li>
          Replace <span className="mono">{value}</span> with <span className="mono">{rule.stops}</span> and save.
        </li>
        <li>Make the file read-only, then reload this page: it says whether that worked.</li>
      </ol>
    </>
  );
}

/** Points at a record that lies elsewhere on the machine that serves the folder. */
function PointAt({ rule, install, found }: { rule: RecordRule; install: Install; found: boolean }) {
  const { failure, attempt, busy } = useAttempt();
  const [roots, setRoots] = useState<readonly string[]>([]);
  const [root, setRoot] = useState<string>();
  const [path, setPath] = useState('');
  useEffect(() => void servedRoots(servedToken()).then(setRoots, () => undefined), []);
  const below = path.trim().replaceAll('\\', '/').replace(/^\/+/, '');
  const chosen = root ?? roots[0];
  return (
    <details open={!found}>
      <summary>{found ? 'It lies elsewhere' : 'Point at it'}</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (chosen !== undefined) attempt(() => pointAtRecord(install.id, chosen, below));
        }}
      >
        <Select
          label="Local folder"
          data={[...roots]}
          value={chosen ?? null}
          allowDeselect={false}
          onChange={(value) => setRoot(value ?? undefined)}
        />
        <TextInput
          mt={8}
          label="Path of the record"
          description="From that folder on"
          placeholder={rule.file.split('/').at(-1)!}
          value={path}
          onChange={({ currentTarget }) => setPath(currentTarget.value)}
        />
        {failure && <Notice tone="wrong">{failure}</Notice>}
        <Button mt={8} mr={8} size="xs" type="submit" variant="default" disabled={below === '' || busy}>
          Use this record
        </Button>
        {install.record?.kind === 'served' && (
          <Button mt={8} size="xs" variant="default" onClick={() => attempt(() => forgetRecord(install.id))}>
            Look in the game’s folder again
          </Button>
        )}
      </form>
    </details>
  );
}
