import { z } from 'zod';
import {
  type ChangePorts,
  ChangeSetIdSchema,
  ChangeSetSchema,
  HistoryEntrySchema,
  isOwnRecord,
  KeySchema,
  LeavesSchema,
  letGo,
  openSet,
  putHistory,
  putRecord,
  run,
  SettlementSchema,
} from '#core/changes';
import { Failure } from '#core/failure';
import { keepsakeReference, KeepsakeSchema, putKeepsake, removeKeepsake } from '#core/keepsakes';
import { SafePathSchema } from '#core/paths';
import { dropReference, keepContents, recheckContents, verifyContents } from './keep';
import { MOST_MIRRORED } from './names';
import { makeReference, putReference, readReference, ReferenceSchema } from './references';
import { clearUnclaimed, MIRROR } from './store';

/** A file that contents are taken from; what the store keeps of itself is none. */
const SourceSchema = SafePathSchema.refine((path) => !isOwnRecord(path));

/** Files that a person has seen named before they go: path, bytes, milliseconds since 1970. */
const NamedSchema = z.array(z.tuple([SafePathSchema, z.number(), z.number()])).max(2_000_000);

/** Puts contents into the store for a reason, each from where it lies. */
const KeepSchema = z.object({
  act: z.literal('keep'),
  reference: ReferenceSchema,
  from: z.array(z.tuple([KeySchema, SourceSchema])).max(2_000_000),
  /** What lies there is copied, or moved into the store. */
  how: z.enum(['copy', 'move']).optional(),
});

/** Names a reason before its contents come. */
const ReferSchema = z.object({ act: z.literal('refer'), reference: ReferenceSchema });

/** Gives a reason up, and the contents that nothing else refers to. */
const DropSchema = z.object({ act: z.literal('drop'), reference: ChangeSetIdSchema });

/** All that can be done to a disk. */
export const ActSchema = z.discriminatedUnion('act', [
  /** Goes on or back with a set; a plan is written down first, unless a set with its id is there already. */
  z
    .object({
      act: z.enum(['on', 'back']),
      set: ChangeSetIdSchema,
      plan: ChangeSetSchema.optional(),
      leaves: LeavesSchema.optional(),
      settle: z.array(SettlementSchema).max(2_000_000).optional(),
    })
    .refine(({ set, plan }) => !plan || plan.id === set, { path: ['plan', 'id'] }),
  /** Removes for good what a set keeps, with the files of a player's that were named in a folder that it has put aside. */
  z.object({
    act: z.literal('let-go'),
    set: ChangeSetIdSchema,
    named: NamedSchema.optional(),
  }),
  KeepSchema,
  /** Keeps files of the player's: their contents, each from where it lies, and the list of them. */
  z.object({
    act: z.literal('keepsake'),
    install: z.string().max(64),
    keepsake: KeepsakeSchema,
    from: z.array(z.tuple([KeySchema, SourceSchema])).max(500_000),
  }),
  /** Gives a keepsake up, with the contents that nothing else refers to. */
  z.object({ act: z.literal('drop-keepsake'), keepsake: ChangeSetIdSchema }),
  ReferSchema,
  DropSchema,
  /** Several of these, one after the other: what starts a thread for each takes longer than they do. */
  z.object({
    act: z.literal('each'),
    acts: z.array(z.discriminatedUnion('act', [KeepSchema, ReferSchema, DropSchema])).max(100_000),
  }),
  /** Reads the contents of a reason again. */
  z.object({ act: z.literal('verify'), reference: ChangeSetIdSchema }),
  /** Reads some contents again, by their names, and removes those that are not right. */
  z.object({ act: z.literal('recheck'), names: z.array(z.string().regex(/^[0-9a-f]{64}$/)).max(100_000) }),
  /** Removes what nothing refers to; of what is no copy of the store's own, the files that were named. */
  z.object({ act: z.literal('clear'), named: NamedSchema.optional() }),
  /** Keeps what a browser knows of the install, for when it has forgotten it, or another one asks. */
  z.object({ act: z.literal('mirror'), text: z.string().max(MOST_MIRRORED) }),
  /** Notes what others have changed. */
  z.object({ act: z.literal('note'), entry: HistoryEntrySchema }),
]);
export type Act = z.infer<typeof ActSchema>;

/** Whether an act changes the game's folder, which must not be at work then. */
export const changesGame = ({ act }: Act): boolean => act === 'on' || act === 'back';

/** Whether an act changes what all games of a store share. */
export const changesShared = ({ act }: Act): boolean => SHARED.has(act);

const SHARED: ReadonlySet<Act['act']> = new Set([
  ...(['keep', 'keepsake', 'drop-keepsake', 'refer', 'drop', 'each', 'verify', 'recheck', 'clear'] as const),
]);

/**
 * Carries an act out, where the disk is.
 * @throws Failure `changes/*`, `folder/*`, `job/cancelled`; each can be done again after that
 */
export async function carryOut(act: Act, ports: ChangePorts): Promise<void> {
  switch (act.act) {
    case 'on':
    case 'back':
      await run(act.set, act.act, ports, act.plan && (await openSet(act.plan, ports)), act);
      return;
    case 'let-go':
      return letGo(act.set, ports, act.named);
    case 'keep':
      return keepContents(act.reference, new Map(act.from), ports, act.how);
    case 'keepsake': {
      const { keepsake, install, from } = act;
      const { id, at, files } = keepsake;
      const reason = { kind: 'keepsake', install, keepsake: id } as const;
      const named = { id: keepsakeReference(id), at, reason };
      const reference = await makeReference(
        named,
        files.map(({ key }) => key),
        ports,
      );
      await keepContents(reference, new Map(from), ports);
      return putKeepsake(ports, keepsake);
    }
    case 'drop-keepsake':
      await removeKeepsake(ports, act.keepsake);
      return dropReference(keepsakeReference(act.keepsake), ports);
    case 'refer':
      return putReference(ports, act.reference);
    case 'drop':
      return dropReference(act.reference, ports);
    case 'each':
      for (const one of act.acts) await carryOut(one, ports);
      return;
    case 'verify': {
      const reference = await readReference(ports, act.reference);
      if (!reference) throw new Failure('changes/unknown', { set: act.reference });
      await verifyContents(reference, ports);
      return;
    }
    case 'recheck':
      return recheckContents(act.names, ports);
    case 'clear':
      return clearUnclaimed(ports, act.named);
    case 'mirror':
      return putRecord(ports, MIRROR, act.text);
    case 'note':
      return putHistory(ports, act.entry);
  }
}
