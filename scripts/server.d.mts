/** Node's own arguments for the server. */
export const SERVER_LIMITS: readonly string[];
