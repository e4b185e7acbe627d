import { whereToGoOn } from '#core/assemble';
import type { BuildLabel } from '#core/builds';
import { treeDigest, type ContentKey } from '#core/digest';
import { Failure } from '#core/failure';
import type { Folder } from '#core/folders';
import { browserDisk, fetchedPath, INSTALL_DISK, RECORD_PATH, treePath } from '~/folders';
import { query } from '~/queries/client';
import type { PlanView } from '~/queries/views';
import { readRecord, writeRecord } from '~/services/install-record';
import { platformSha256 } from '~/services/sha256';
import { getInstall, putSurvey, updateInstall } from '~/store/installs';
import { intend, journalled, journalOf, markJournal } from '~/store/journal';
import type { Install } from '~/store/records';
import type { JobContext, Kind } from '../job-context';
import { batches, inLanes, runCounted } from './batches';
import { hashTree } from './hash-tree';

/** The tree that a job writes: named in its first journal entry, so that a job that goes on finds it again. */
async function newTreeOf(context: JobContext): Promise<string> {
  const first = (await journalOf(context.id)).find(({ change }) => change.kind === 'write-files');
  if (first?.change.kind === 'write-files') return first.change.tree;
  const { nextTree } = await updateInstall(context.install, (now) => ({ ...now, nextTree: now.nextTree + 1 }));
  const tree = `t${nextTree}`;
  await intend(context.install, context.id, { kind: 'write-files', tree, paths: [] });
  return tree;
}

async function writeTree(
  context: JobContext,
  plan: PlanView,
  install: Install,
  tree: string,
  disk: Folder,
): Promise<void> {
  const there = new Map((await disk.list(treePath(tree))).map(({ path, size }) => [path, size]));
  // A file that is there is whole, since it was put in place whole; that its bytes are right is checked afterwards.
  const rows = plan.rows.filter(({ path, size }) => there.get(treePath(tree, path)) !== size);
  context.phase(
    `Writing ${plan.build} beside`,
    rows.length,
    rows.reduce((sum, { size }) => sum + size, 0),
  );
  await inLanes(batches(rows), 2, context, async (batch) => {
    const paths = batch.map(({ path }) => path);
    await journalled(context.install, context.id, { kind: 'write-files', tree, paths }, () =>
      runCounted(context, {
        do: 'lay',
        disk: INSTALL_DISK(context.install),
        files: batch.map(({ path, key, source, text }) => ({
          from:
            source.how === 'write'
              ? undefined
              : source.how === 'fetched'
                ? fetchedPath(plan.sha256.get(path)!)
                : treePath(install.tree, source.path),
          text,
          to: treePath(tree, path),
          key,
        })),
      }),
    );
  });
}

/** Reads every file of the new tree; a wrong one is taken out, so that going on writes it anew. */
async function checkTree(context: JobContext, plan: PlanView, tree: string, disk: Folder): Promise<void> {
  const found = await hashTree(context, tree, `Checking ${plan.build} whole`);
  const keys = new Map(found.paths.map((path, i) => [path, found.keys[i] as ContentKey]));
  const wrong = plan.rows.find(({ path, key }) => keys.get(path) !== key);
  const planned = new Set(plan.rows.map(({ path }) => path));
  const extra = found.paths.find((path) => !planned.has(path));
  const bad = wrong?.path ?? extra;
  if (bad !== undefined) {
    await disk.remove(treePath(tree, bad));
    throw new Failure('folder/changed-meanwhile', { path: bad });
  }
  const files = [...keys].map(([path, key]) => ({ path, key }));
  const digest = await treeDigest(files, platformSha256);
  await journalled(context.install, context.id, { kind: 'checked', tree, digest }, () =>
    putSurvey({ install: context.install, ...found }),
  );
}

/** Writes into the storefront's record which build lies there now; a locked record is left as it is. */
async function tellRecord(context: JobContext, build: BuildLabel, disk: Folder): Promise<void> {
  const before = await readRecord(disk);
  const after = { ...before, build };
  await journalled(
    context.install,
    context.id,
    { kind: 'write-record', before: JSON.stringify(before), after: JSON.stringify(after) },
    async () => {
      const locked = await disk.isReadOnly(RECORD_PATH);
      if (locked) await disk.setReadOnly(RECORD_PATH, false);
      await writeRecord(disk, after);
      if (locked) await disk.setReadOnly(RECORD_PATH, true);
    },
  );
}

/** One transaction makes the new tree the game's folder and the old one the one that is kept aside. */
async function swap(
  context: JobContext,
  tree: string,
  asideBuild: BuildLabel | undefined,
  asideBytes: number,
): Promise<void> {
  const { tree: from } = await getInstall(context.install);
  if (from === tree) return;
  await journalled(context.install, context.id, { kind: 'swap', from, to: tree }, () =>
    updateInstall(context.install, (now) => ({
      ...now,
      tree,
      aside: { tree: from, build: asideBuild, bytes: asideBytes },
    })),
  );
}

async function layAndSwap(context: JobContext, install: Install, phase: 'write' | 'swap', disk: Folder): Promise<void> {
  const build = install.target?.build;
  if (!build) throw new Failure('job/not-checked-out', { what: 'target' });
  const tree = await newTreeOf(context);
  if (install.tree === tree) return;
  const before = await query('frame', context.install);
  if (phase === 'write') {
    const plan = await query('plan', context.install);
    if (plan.missing.length > 0)
      throw new Failure('folder/not-found', { path: plan.missing[0]!, missing: plan.missing.length });
    await writeTree(context, plan, install, tree, disk);
    await checkTree(context, plan, tree, disk);
  }
  await context.gate();
  context.phase('Swapping the folders', 0, 0);
  await tellRecord(context, build, disk);
  const bytes = (await disk.list(treePath(install.tree))).reduce((sum, { size }) => sum + size, 0);
  await swap(context, tree, before.likeliest, bytes);
}

/**
 * Lays the target down beside the old folder, checks every byte of it and swaps the two. Can be cut off anywhere: it
 * goes on from its journal, and cancelling before the swap removes what it wrote and leaves the folder as it was.
 */
export const assemble: Kind = {
  async run(context) {
    const disk = browserDisk(INSTALL_DISK(context.install));
    const install = await getInstall(context.install);
    const phase = whereToGoOn(await journalOf(context.id));
    if (phase !== 'nothing') await layAndSwap(context, install, phase, disk);
    // Also when the job was cut off between the swap and this: nothing else would take it away.
    await disk.remove('fetched');
  },
  async undo(context) {
    const first = (await journalOf(context.id)).find(({ change }) => change.kind === 'write-files');
    if (first?.change.kind !== 'write-files') return;
    const { tree } = first.change;
    const install = await getInstall(context.install);
    if (install.tree === tree) return;
    await journalled(context.install, context.id, { kind: 'remove-tree', tree }, () =>
      browserDisk(INSTALL_DISK(context.install)).remove(treePath(tree)),
    );
    for (const { seq, change } of await journalOf(context.id)) {
      if (change.kind === 'write-files' || change.kind === 'checked') await markJournal(seq, 'undone');
    }
  },
};
