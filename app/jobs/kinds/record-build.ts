import { inLanes } from '#core/calls';
import { z } from 'zod';
import { BuildLabelSchema } from '#core/builds';
import { PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import { type Source, sourceOf, toldTimesOf } from '~/places';
import { query, type RecordedFile } from '~/queries';
import { getInstall, getSurvey, type Install } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';
import { batches, runCounted } from './batches';
import { listTree } from './hash-tree';

const ParamsSchema = z.object({
  label: BuildLabelSchema,
  date: z.iso.date(),
  branch: z.string().min(1).max(60).optional(),
  /** Which top folders go into which depot; all into one where it is left out. */
  parts: z.array(z.object({ depot: z.string().min(1).max(60), folders: z.array(z.string()) })).optional(),
});

/** A piece that holds a file of this many bytes whole: its digest is that of the file. */
const pieceFor = (size: number): number => Math.max(PIECE_SIZE, 2 ** Math.ceil(Math.log2(size)));

/** What is recorded is what was surveyed. @throws Failure `folder/changed-meanwhile` with the first file that is another by now */
async function assertAsSurveyed(
  context: JobContext,
  install: Install,
  source: Source,
  files: readonly RecordedFile[],
): Promise<void> {
  const survey = await getSurvey(install);
  const told = toldTimesOf(install);
  const listing = await listTree(context, source);
  const now = new Map(
    listing.paths.map((path, i) => [path, [listing.sizes[i], told(path, listing.modified[i]!)] as const]),
  );
  const times = new Map(survey?.paths.map((path, i) => [path, survey.modified[i]]));
  const other = files.find(({ path, size }) => {
    const [nowSize, nowTime] = now.get(path) ?? [];
    // Of some no time is known.
    return nowSize !== size || !Object.is(nowTime, times.get(path));
  });
  if (other) throw new Failure('folder/changed-meanwhile', { path: other.path });
}

/** Records what a survey found in the folder as a full build: whatever is no own file, no mod, and in a folder that goes into a depot. */
export const recordBuild: Kind = {
  async run(context) {
    const { parts, ...build } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const files = await query('recordFiles', install.id, parts);
    if (files.length === 0) throw new Failure('job/not-checked-out', { what: 'survey' });
    const whole = new Map(files.flatMap(({ path, sha256 }) => (sha256 === undefined ? [] : [[path, sha256] as const])));
    const left = files.filter(({ sha256 }) => sha256 === undefined);
    const source = await sourceOf(install, install.tree);
    await assertAsSurveyed(context, install, source, files);
    // Large files are known by their pieces; a manifest tells the digest of the whole too.
    context.phase(
      `Reading large files of ${build.label}`,
      left.length,
      left.reduce((sum, { size }) => sum + size, 0),
    );
    const { placeOf, root, batch } = source;
    const prefix = root === '' ? '' : `${root}/`;
    await inLanes(batches(left, batch), 2, context, async (some) => {
      const wishes = some.map(({ path, size }) => ({ path: prefix + path, size, pieceSize: pieceFor(size) }));
      const place = placeOf(wishes.map(({ path }) => path));
      const { contents, unreadable } = await runCounted(context, { do: 'hash', place, files: wishes });
      const [lost] = unreadable;
      if (lost) throw new Failure('folder/changed-meanwhile', { path: lost.path.slice(prefix.length) });
      some.forEach(({ path, size }, i) => {
        const read = contents[i];
        if (read?.size !== size || read.pieces.length !== 1) throw new Failure('folder/changed-meanwhile', { path });
        whole.set(path, read.pieces[0]!);
      });
      context.add(some.length, 0);
    });
    const recorded = files.map((file): RecordedFile & { sha256: string } => ({
      ...file,
      sha256: whole.get(file.path)!,
    }));
    await query('takeRecorded', install.game, build, recorded);
  },
};
