import { startServer as start } from '../scripts/server.mjs';

/** The built server with the demo on a port of this machine, as a person starts it, saying only what goes wrong. */
export const startServer = (port, more = {}) =>
  start(port, { REGRESSUM_DEMO: 'yes', ...more }, { stdio: ['ignore', 'ignore', 'inherit'] });
