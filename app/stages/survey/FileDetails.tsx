import { STATES } from '#core/survey';
import { failureToWire } from '#core/failure';
import { bytes } from '~/parts/format';
import { STATE_WORDS } from '~/parts/state-marks';
import { Copyable } from '~/parts/Copyable';
import { FailureNotice, ItemLink, Pairs, Section } from '~/parts/parts';
import { strayWords } from '~/parts/stray-words';
import { type SurveyView, useQuery } from '~/queries';

/** One file: what it should be, what it is, and whose its bytes are. */
export function FileDetails({
  install,
  path,
  view,
  names,
}: {
  install: string;
  path: string;
  view: SurveyView;
  names: ReadonlyMap<string, string>;
}) {
  const { table } = view;
  const row = table.paths.indexOf(path);
  const { value: file, failure } = useQuery('surveyedFile', [install, path], view.at);
  const depot = table.depotIds[table.depots[row]!];
  const state = STATES[table.states[row]!]!;
  return (
    <>
      <div className="label">{STATE_WORDS[state]}</div>
      <h2 style={{ fontSize: 16, overflowWrap: 'anywhere' }}>{path}</h2>
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      <Copyable text={path} what="path" />
      <Pairs
        rows={[
          { name: state === 'absent' ? 'Expected size' : 'Size', value: bytes(table.sizes[row]!) },
          ...(state === 'altered' && file?.expectedSize !== undefined
            ? [{ name: 'Expected size', value: bytes(file.expectedSize) }]
            : []),
          { name: 'Depot', value: view.depots.find((one) => one.depot === depot)?.title ?? 'none' },
          ...(file?.name ? [{ name: 'Belongs to', value: strayWords(file.name, names) }] : []),
          ...(file && file.builds.length > 0 ? [{ name: 'Same in builds', value: spanOf(file.builds) }] : []),
        ]}
      />
      {file?.found !== undefined && <Digest title="SHA-256 on disk" digest={file.found} />}
      {file?.expected !== undefined && file.expected !== file.found && (
        <Digest title="Expected SHA-256" digest={file.expected} />
      )}
      <ItemLink changes={{ file: undefined }} current={false}>
        Show the whole folder
      </ItemLink>
    </>
  );
}

const spanOf = (builds: readonly string[]): string =>
  builds.length > 3 ? `${builds[0]} … ${builds.at(-1)} (${builds.length})` : builds.join(', ');

function Digest({ title, digest }: { title: string; digest: string }) {
  return (
    <>
      <Section>{title}</Section>
      <code style={{ overflowWrap: 'anywhere' }}>{digest}</code> <Copyable text={digest} what={title} />
    </>
  );
}
