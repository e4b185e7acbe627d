import type { BuildLabel, DepotIndex } from '#core/builds';
import { likeliestBuild } from '#core/survey';
import { useFrame } from '~/parts/use-frame';
import { bytes, count, counted } from '~/parts/format';
import { Ago, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import type { StoredLook } from '~/store';
import { LookButtons } from './looking';
import styles from './survey.module.css';

function share(part: number, whole: number): string {
  const percent = (100 * part) / Math.max(1, whole);
  return percent > 0 && percent < 0.01 ? 'under 0.01 %' : `${percent.toFixed(2)} %`;
}

type Looked = StoredLook['depots'][number];

/** How sure a quick look can be of a depot. */
function surety({ builds, fitting, total, bytesAgree }: Looked): string {
  if (builds.length === 0) return 'not installed';
  if (!bytesAgree) return 'sampled files match no build';
  return fitting === total ? 'sizes and sampled bytes match' : `${count(total - fitting)} with another size or missing`;
}

const buildWords = ({ builds }: Looked): string =>
  builds.length === 0 ? '–' : builds.length === 1 ? builds[0]! : `${builds[0]} to ${builds.at(-1)}`;

/** The build that most depots can be at, and whether one of them cannot. */
function whole(look: StoredLook, index: DepotIndex): { build: BuildLabel | undefined; mixed: boolean } {
  const named = look.depots.filter(({ builds }) => builds.length > 0);
  const build = likeliestBuild(
    named,
    index.builds.map(({ label }) => label),
  );
  return { build, mixed: named.some(({ builds }) => !builds.includes(build!)) };
}

export function LookWords({ look }: { look: StoredLook }) {
  const { build, mixed } = whole(look, useFrame().index);
  return (
    <p className="quiet">
      A quick look <Ago at={look.at} /> found {mixed ? 'mixed builds' : (build ?? 'no known build')}.
    </p>
  );
}

/** What a quick look found, where there was no full check yet. */
export function LookedAt({ look }: { look: StoredLook }) {
  const { index, install } = useFrame();
  const read = look.read.reduce((sum, { size }) => sum + size, 0);
  const depotOf = new Map(index.depots.map((depot) => [depot.id, depot]));
  const { build, mixed } = whole(look, index);
  return (
    <StagePage
      title="Survey"
      middle={
        <div className={styles.look}>
          <h2>{build === undefined ? 'No known build' : mixed ? 'Mixed builds' : `This looks like ${build}`}</h2>
          <p className="quiet">
            By names, sizes, and {counted(look.read.length, 'sampled file')} of {count(look.files)}. Only the full check
            covers every byte.
          </p>
          <table className={parts.table}>
            <thead>
              <tr>
                <th>Depot</th>
                <th>Build</th>
                <th>Files that fit</th>
                <th>Confidence</th>
              </tr>
            </thead>
            <tbody>
              {look.depots.map((depot) => (
                <tr key={depot.depot}>
                  <td>{depotOf.get(depot.depot)?.title ?? depot.depot}</td>
                  <td className="mono">{buildWords(depot)}</td>
                  <td className="mono">
                    {count(depot.fitting)} / {count(depot.total)}
                  </td>
                  <td className={depot.bytesAgree && depot.fitting === depot.total ? undefined : styles.unsure}>
                    {surety(depot)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      }
      right={
        <>
          <div className="label">Quick look</div>
          <h2 className={parts.big}>{build === undefined ? 'No known build' : mixed ? 'Mixed' : build}</h2>
          <div className="quiet">
            {install.folder}, <Ago at={look.at} />
          </div>
          <Section>Sampled files</Section>
          <Pairs
            rows={[
              { name: 'Files in the folder', value: count(look.files) },
              { name: 'Bytes in the folder', value: bytes(look.bytes) },
              { name: 'Files read', value: count(look.read.length) },
              { name: 'Bytes read', value: `${bytes(read)} · ${share(read, look.bytes)}` },
            ]}
          />
          {look.read.map(({ path, size }) => (
            <Pairs key={path} rows={[{ name: path, value: bytes(size) }]} />
          ))}
          {mixed && <Notice>Depots are at different builds. The full check shows which files.</Notice>}
        </>
      }
      action={<LookButtons />}
    />
  );
}
