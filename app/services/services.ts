import { DepotIndexSchema } from '#core/builds';
import { StorefrontAnswerSchema, type InstallRecord, type StorefrontAnswer } from '#core/hold';
import { CatalogueSchema } from '#core/mods';
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
import { putServices } from '~/store/services';
import { getJson, postJson } from './http';

const BASE = '/stand-ins';

/** Brings the index and the catalogue up to date; what was known before stays when a service cannot be reached. */
export async function refreshServices(): Promise<void> {
  const [index, catalogue] = await Promise.all([
    getJson(`${BASE}/depots/index.json`, DepotIndexSchema),
    getJson(`${BASE}/catalogue/index.json`, CatalogueSchema),
  ]);
  await putServices(index, catalogue);
}

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
