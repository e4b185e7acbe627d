import type { z } from 'zod';
import { type DepotIndex, DepotIndexSchema } from '#core/builds';
import { parseJson } from '#core/json';
import { StorefrontAnswerSchema, type InstallRecord, type StorefrontAnswer } from '#core/hold';
import { type Catalogue, CatalogueSchema } from '#core/mods';
import {
  type GameAnswer,
  GameAnswerSchema,
  type PanelAction,
  type PanelState,
  PanelStateSchema,
  type SeedList,
  SeedListSchema,
  type SessionAnswer,
  SessionAnswerSchema,
  type SignIn,
  type StartRequest,
} from '#core/outside';
import type { Said } from '~/store';
import { getJson, postJson, request } from './http';
import { platformSha256 } from './sha256';

const BASE = '/stand-ins';

/** Where the depot service is: its index lies there, and only what lies below it gets the token of a sign-in. */
export const DEPOT_SERVICE = `${BASE}/depots/`;

/** Asks a service anew. @returns undefined where it says what it said before @throws Failure `service/*`, `json/*` */
async function askAnew<Schema extends z.ZodType>(
  url: string,
  schema: Schema,
  before: string | undefined,
): Promise<Said<z.output<Schema>> | undefined> {
  const text = await (await request(url)).text();
  const digest = await platformSha256(text);
  return digest === before ? undefined : { value: parseJson(text, schema, url), digest };
}

export const depotIndex = (before: string | undefined): Promise<Said<DepotIndex> | undefined> =>
  askAnew(`${DEPOT_SERVICE}index.json`, DepotIndexSchema, before);

export const modCatalogue = (before: string | undefined): Promise<Said<Catalogue> | undefined> =>
  askAnew(`${BASE}/catalogue/index.json`, CatalogueSchema, before);

export const signIn = (form: SignIn): Promise<SessionAnswer> =>
  postJson(`${BASE}/depots/session`, form, SessionAnswerSchema);

export const firstInstall = (): Promise<SeedList> => getJson(`${BASE}/storefront/first-install`, SeedListSchema);

/** Lets the storefront look at an install's record, as it does by itself each day. */
export const storefrontLooks = (record: InstallRecord): Promise<StorefrontAnswer> =>
  postJson(`${BASE}/storefront/look`, record, StorefrontAnswerSchema);

export const startGame = (folder: StartRequest): Promise<GameAnswer> =>
  postJson(`${BASE}/game/start`, folder, GameAnswerSchema);

export const panelState = (): Promise<PanelState> => getJson(`${BASE}/panel/state`, PanelStateSchema);

export const panelAction = (action: PanelAction): Promise<PanelState> =>
  postJson(`${BASE}/panel/act`, action, PanelStateSchema);
