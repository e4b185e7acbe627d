import type { Mod } from '#core/mods';
import type { BuildChoice } from '#core/choose';
import { shortenMiddle } from '#core/text';
import { counted } from '~/parts/format';
import { ownerWords } from '~/parts/owner-words';
import { useFrame } from '~/parts/use-frame';
import { type ReplacedView, useQuery } from '~/queries';

const LONGEST_PATH = 38;

function Files({
  title,
  files,
  names,
}: {
  title: string;
  files: ReplacedView['covers'];
  names: ReadonlyMap<string, string>;
}) {
  if (files.length === 0) return null;
  return (
    <details>
      <summary>
        {title} {counted(files.length, 'file')}
      </summary>
      <ul>
        {files.map(({ path, owners }) => (
          <li key={path} title={path}>
            {shortenMiddle(path, LONGEST_PATH)}{' '}
            <span className="quiet">of {owners.map((owner) => ownerWords(owner, names)).join(', ')}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Which files of the game, or of other mods, a mod replaces at a build, and which of its own are replaced. */
export function Replaced({
  mod,
  choice,
  names,
  since,
}: {
  mod: Mod;
  choice: BuildChoice;
  names: ReadonlyMap<string, string>;
  since: number;
}) {
  const { install } = useFrame();
  const { value } = useQuery('replaced', [install.id, choice.build, [...choice.runs], mod.id], since);
  if (!value) return null;
  return (
    <>
      <Files title="Replaces" files={value.covers} names={names} />
      <Files title="Replaced by others:" files={value.coveredBy} names={names} />
    </>
  );
}
