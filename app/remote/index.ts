export { getBytes, getPack, request } from './http';
export { servedRoots, servedToken, takeTokenFromAddress, tellServedToken } from './served-token';
export {
  depotIndex,
  firstInstall,
  modCatalogue,
  panelAction,
  panelState,
  signIn,
  startGame,
  storefrontLooks,
} from './services';
export { tokenFor } from './session-token';
export { platformSha256 } from './sha256';
