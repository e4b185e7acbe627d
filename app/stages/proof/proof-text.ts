import type { ProofView } from '~/queries';
import type { Install } from '~/store';

/** A proof as plain text, to be kept beside the folder or sent along. */
export function proofText(view: ProofView, install: Install, names: ReadonlyMap<string, string>): string {
  const { proof, build, at, laid, depots, trusted } = view;
  const parts = proof.parts.map(({ owner, expected, right, covered }) => {
    const name =
      owner.kind === 'depot'
        ? (depots.get(owner.depot) ?? owner.depot)
        : owner.kind === 'mod'
          ? `${names.get(owner.mod) ?? owner.mod} ${owner.release}`
          : 'Written by Regressum';
    const more = covered > 0 ? `, ${covered} covered by others` : '';
    return `${name}: ${right.files} of ${expected.files} files, ${right.bytes} of ${expected.bytes} bytes${more}`;
  });
  return [
    `Proof of ${install.folder}`,
    `Build ${build}`,
    `Read ${new Date(at).toISOString()}${trusted > 0 ? `, ${trusted} files not again` : ''}`,
    ...(laid
      ? [
          `Laid down ${new Date(laid.at).toISOString()}${laid.seconds === undefined ? '' : ` in ${Math.round(laid.seconds)} s`}`,
        ]
      : []),
    `Tree digest expected ${proof.expectedDigest}`,
    `Tree digest found    ${proof.foundDigest}`,
    `Files right ${proof.right.files} of ${proof.expected.files}`,
    `Bytes right ${proof.right.bytes} of ${proof.expected.bytes}`,
    ...(proof.asFound > 0 ? [`Settings of mods that count as they lie there ${proof.asFound}`] : []),
    '',
    ...parts,
    ...(proof.wrong.length > 0 ? ['', 'Not right:', ...proof.wrong] : []),
    '',
  ].join('\n');
}
