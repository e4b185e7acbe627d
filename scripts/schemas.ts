import { z } from 'zod';
import { DepotIndexSchema } from '#core/builds';
import { BundleIndexSchema } from '#core/bundles';
import { ChangeSetSchema } from '#core/changes';
import { ChooseQuestionSchema } from '#core/choose';
import { HoldSheetSchema } from '#core/hold';
import { CatalogueSchema } from '#core/mods';
import { ProfileFileSchema } from '#core/profiles';
import { GameFileSchema } from '#core/sources';

/** The open formats as JSON Schema, by the name of their file in docs/schemas. Made from what the program reads by. */
export function jsonSchemas(): Record<string, string> {
  const formats = {
    'hold-sheet': HoldSheetSchema,
    'depot-index': DepotIndexSchema,
    bundle: BundleIndexSchema,
    'mod-catalogue': CatalogueSchema,
    'choose-question': ChooseQuestionSchema,
    'change-set': ChangeSetSchema,
    game: GameFileSchema,
    profile: ProfileFileSchema,
  };
  return Object.fromEntries(
    Object.entries(formats).map(([name, schema]) => [
      `${name}.schema.json`,
      `${JSON.stringify(z.toJSONSchema(schema, { io: 'input' }), null, 2)}\n`,
    ]),
  );
}
