import {
  type GameAnswer,
  GameAnswerSchema,
  type InstallRecord,
  type StorefrontAnswer,
  StorefrontAnswerSchema,
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
import { getJson, postJson } from './http';

const BASE = '/stand-ins';

/** Where the stand-in for a depot service is: only what lies below it gets the token of a sign-in. */
export const DEPOT_SERVICE = `${BASE}/depots/`;
export const MOD_SERVICE = `${BASE}/catalogue/`;

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
