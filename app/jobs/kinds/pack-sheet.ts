import { z } from 'zod';
import { bagName } from '#core/keepsakes';
import { HoldSheetSchema, SHEET_FILES, writeHoldSheet } from '#core/hold';
import { keeping } from '~/changes';
import { archivePath, dropArchive, INSTALL_DISK } from '~/folders';
import { query } from '~/queries';
import { getInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { runCounted } from './batches';

const ParamsSchema = z.object({
  sheet: HoldSheetSchema,
  /** Whether the manifests of its depots go along, and the files of its mods. */
  ...{ manifests: z.boolean(), mods: z.boolean() },
});

const nameOf = ({ sheet }: z.output<typeof ParamsSchema>): string => bagName(sheet.game.id, sheet.heldAt, 'hold-sheet');

const asJson = (value: unknown): string => `${JSON.stringify(value, null, 2)}\n`;

/** Packs a hold sheet with what belongs to it into one archive in BagIt form, for the person to hand on. */
export const packSheet: Kind = {
  async run(context) {
    const params = readParams(context, ParamsSchema);
    const { sheet } = params;
    const install = await getInstall(context.install);
    context.phase('Gathering what is handed on', 0, 0);
    const { builds, mods } = await query('sheetParts', install.id, sheet);
    const files = params.mods ? mods.files : [];
    context.phase(
      'Packing the hold sheet',
      files.length,
      files.reduce((sum, [, , size]) => sum + size, 0),
    );
    const name = nameOf(params);
    const texts: (readonly [string, string])[] = [[SHEET_FILES.sheet, writeHoldSheet(sheet)]];
    if (params.manifests) texts.push([SHEET_FILES.index, asJson(builds.index)], ...builds.texts);
    if (params.mods) texts.push([SHEET_FILES.catalogue, asJson(mods.catalogue)]);
    await runCounted(context, {
      ...{ do: 'bag', files: files.map(([as, path]) => [as, path] as const), texts, tags: [] },
      ...{ from: (await keeping(install)).arrivals, disk: INSTALL_DISK(install.id), to: archivePath(name), name },
      info: { what: 'hold-sheet', date: sheet.heldAt, game: sheet.game.title, build: sheet.build },
    });
    context.tell({ without: [...(params.manifests ? builds.without : []), ...(params.mods ? mods.without : [])] });
  },
  async undo(context) {
    await dropArchive(context.install, nameOf(readParams(context, ParamsSchema)));
  },
};
