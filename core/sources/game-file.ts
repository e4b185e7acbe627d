import { z } from 'zod';
import { type Game, GameSchema } from '#core/builds';
import { isFailure } from '#core/failure';
import { sourceAddress } from './address';

/** Where a game's builds or mods are told of, as a game's file names it. */
const OfferedSourceSchema = z.object({
  of: z.enum(['builds', 'mods']),
  href: z
    .string()
    .max(2048)
    .refine((href) => {
      try {
        return sourceAddress(href).href === href;
      } catch (error) {
        if (isFailure(error)) return false;
        throw error;
      }
    }, 'is not an http or https address'),
});
export type OfferedSource = z.infer<typeof OfferedSourceSchema>;

/** A game as a file, to hand on: what it is, and who tells of it. Each address is confirmed before it is asked. */
export const GameFileSchema = GameSchema.extend({
  format: z.literal('regressum-game'),
  version: z.literal(1),
  sources: z.array(OfferedSourceSchema).max(50).default([]),
});
export type GameFile = z.infer<typeof GameFileSchema>;

/** A game's file. */
export const gameFile = ({ id, title, rules }: Game, sources: readonly OfferedSource[]): GameFile => ({
  format: 'regressum-game',
  version: 1,
  id,
  title,
  rules,
  sources: [...sources],
});
