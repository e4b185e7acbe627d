import { z } from 'zod';
import { KeySchema } from '#core/changes';
import { LearnedBuildSchema } from '#core/survey';
import { packed, unpacked } from './columns';
import { db } from './db';
import { listInstalls } from './installs';
import { storesOf, writeWhole } from './profiles';
import {
  type GameRecord,
  GameRecordSchema,
  HoldRecordSchema,
  type Install,
  InstallSchema,
  OwnModSchema,
  ShelvedSchema,
  StoredProfileSchema,
  StoredLookSchema,
  StoredSurveySchema,
  StoredTrialSchema,
} from './records';

/*
 * What of the store cannot be had again: it goes into a backup. What sources tell comes back from them; jobs, readings and
 * sign-ins are of the moment.
 */

export const BACKUP_VERSION = 1;

/** Columns of numbers are arrays in JSON, which has no NaN. */
const column = z
  .array(z.number().nullable())
  .transform((numbers) => Float64Array.from(numbers, (number) => number ?? NaN));
/** The store takes its own columns for what they are; those of a file are looked at. */
const SurveySchema = z
  .looseObject({ paths: z.array(z.string()), keys: z.array(KeySchema), sizes: column, modified: column })
  .transform((survey): unknown => survey)
  .pipe(StoredSurveySchema);

/** A folder that was picked or handed over has to be opened again: what it is known by does not leave the browser. */
export function lasting({ place, elsewhere, followed, ...install }: Install): Install {
  const served = <T extends { readonly at: { readonly kind: string } }>(all: readonly T[]): T[] =>
    all.filter(({ at }) => at.kind === 'served');
  const own = {
    ...install,
    ...(elsewhere && { elsewhere: served(elsewhere) }),
    ...(followed && { followed: served(followed) }),
  };
  return place.kind === 'picked' ? { ...own, place: { kind: 'handed' } } : { ...own, place };
}

/** A backup may come from somebody else: nobody typed its addresses here, so none may lie in a private network. */
const asTold = (game: GameRecord): GameRecord => ({
  ...game,
  sources: game.sources.map((source) => (source.kind === 'address' ? { ...source, trust: 'told' } : source)),
});

export const BackupSchema = z.object({
  version: z.literal(BACKUP_VERSION),
  /** Milliseconds since 1970. */
  at: z.number(),
  games: z.array(GameRecordSchema),
  installs: z.array(InstallSchema),
  profiles: z.array(StoredProfileSchema).default([]),
  surveys: z.array(SurveySchema),
  pastSurveys: z.array(SurveySchema),
  looks: z.array(StoredLookSchema),
  holds: z.array(HoldRecordSchema),
  trials: z.array(StoredTrialSchema),
  learned: z.array(LearnedBuildSchema.unwrap().and(z.object({ game: z.string() }))),
  gameMods: z.array(OwnModSchema),
  shelved: z.array(ShelvedSchema).default([]),
});
export type Backup = z.infer<typeof BackupSchema>;

const STORES = [
  'installs',
  'profiles',
  'surveys',
  'pastSurveys',
  'looks',
  'holds',
  'trials',
  'learned',
  'gameMods',
  'shelved',
  'games',
] as const;

/** Everything that a backup has of the store, as JSON. */
export async function backupText(at: number): Promise<string> {
  const transaction = (await db()).transaction(STORES);
  const surveysIn = async (name: 'surveys' | 'pastSurveys'): Promise<unknown[]> =>
    (await transaction.objectStore(name).getAll()).map(unpacked);
  const [surveys, pastSurveys, ...all] = await Promise.all([
    surveysIn('surveys'),
    surveysIn('pastSurveys'),
    ...STORES.map((name) => transaction.objectStore(name).getAll()),
  ]);
  const stores = Object.fromEntries(STORES.map((name, i) => [name, all[i]!]));
  const whole = await listInstalls();
  return JSON.stringify(
    {
      ...{ version: BACKUP_VERSION, at, ...stores, installs: whole.map(lasting) },
      ...{ surveys, pastSurveys },
    },
    (_, value: unknown) => (value instanceof Float64Array ? Array.from(value) : value),
  );
}

/**
 * Stores what a backup has and the store does not: all of it, or nothing.
 * @param installs those whose records are taken over
 */
export async function putBackup(backup: Backup, installs: ReadonlySet<string>): Promise<void> {
  const transaction = (await db()).transaction(STORES, 'readwrite');
  // Whoever asked hears of the first record that is refused; the transaction is then no longer waited for.
  transaction.done.catch(() => undefined);
  const of = <T extends { readonly install: string }>(records: readonly T[]): T[] =>
    records.filter(({ install }) => installs.has(install));
  for (const install of backup.installs)
    if (installs.has(install.id)) {
      if (await transaction.objectStore('installs').getKey(install.id))
        throw new DOMException(install.id, 'ConstraintError');
      await writeWhole(storesOf(transaction), install);
    }
  for (const profile of of(backup.profiles)) await transaction.objectStore('profiles').put(profile);
  for (const survey of of(backup.surveys)) await transaction.objectStore('surveys').put(packed(survey));
  for (const survey of of(backup.pastSurveys)) await transaction.objectStore('pastSurveys').put(packed(survey));
  for (const look of of(backup.looks)) await transaction.objectStore('looks').put(look);
  for (const hold of of(backup.holds)) await transaction.objectStore('holds').put(hold);
  for (const trial of of(backup.trials)) await transaction.objectStore('trials').add(trial);
  const learned = transaction.objectStore('learned');
  for (const record of backup.learned) if (!(await learned.getKey(record.id))) await learned.add(record);
  const own = transaction.objectStore('gameMods');
  for (const mod of backup.gameMods) if (!(await own.getKey([mod.game, mod.id]))) await own.add(mod);
  const shelved = transaction.objectStore('shelved');
  for (const one of backup.shelved)
    if (!(await shelved.getKey([one.game, one.mod, one.version]))) await shelved.add(one);
  const games = transaction.objectStore('games');
  for (const game of backup.games) if (!(await games.getKey(game.id))) await games.add(asTold(game));
  await transaction.done;
}
