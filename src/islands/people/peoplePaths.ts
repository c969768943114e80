export const ACCOUNTS = '/api/accounts';
export const TOKENS = '/api/tokens';
export const CHANGES = '/api/audit?limit=50';
/** Names of the sites that somebody sees. */
export const SITES = '/api/sites?names=true';
