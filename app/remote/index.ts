export { streamSha256 } from './stream-sha256';
export { getBytes, getPack, getStream, readPackedText, readText, request } from './http';
export { servedRoots } from './served-token';
export { askSource, placeOfAddress } from './sources';
export { servedToken, takeTokenFromAddress, tellServedToken } from './token';
export { firstInstall, panelAction, panelState, signIn, startGame, storefrontLooks } from './services';
export { asksSignIn, tokenFor } from './session-token';
export { platformSha256 } from './sha256';
