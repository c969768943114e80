/**
 * What somebody may do on a site: an owner reads; a fixer also ticks off what is done; an auditor changes everything of
 * the site; an administrator also has accounts and settings of the application.
 */
export const ROLES = ['owner', 'fixer', 'auditor', 'administrator'] as const;
export type Role = (typeof ROLES)[number];

/** What each role means, as shown. */
export const ROLE_MEANS: Readonly<Record<Role, string>> = {
  owner: 'reads everything',
  fixer: 'reads, and ticks off fixes and steps that are done',
  auditor: 'does everything on a site',
  administrator: 'does everything, and manages accounts and settings',
};

/** The roles of an account. */
export interface Roles {
  /** On all sites, also those to come; undefined for an account of single sites. */
  readonly everywhere?: Role;
  /** On single sites. */
  readonly sites: readonly { readonly siteId: number; readonly role: Exclude<Role, 'administrator'> }[];
}

const rank = (role: Role | undefined) => (role === undefined ? -1 : ROLES.indexOf(role));

/** Whether a role is enough where another is needed. */
export const isEnough = (has: Role | undefined, needed: Role): boolean => rank(has) >= rank(needed);

/** The role on a site: the higher of the one everywhere and the one there. Undefined where the account has none. */
export function roleOn(roles: Roles, siteId: number): Role | undefined {
  const there = roles.sites.find((s) => s.siteId === siteId)?.role;
  return rank(there) > rank(roles.everywhere) ? there : roles.everywhere;
}

/** The highest role that the account has anywhere; undefined where it has none. */
export const highestRole = (roles: Roles): Role | undefined =>
  roles.sites.reduce<Role | undefined>(
    (highest, { role }) => (isEnough(highest, role) ? highest : role),
    roles.everywhere,
  );

/** Whether the account sees a site at all. */
export const seesSite = (roles: Roles, siteId: number): boolean => roleOn(roles, siteId) !== undefined;

/** What is lowered to reading when a token is for reading only. */
export function readingOnly(roles: Roles): Roles {
  return {
    everywhere: roles.everywhere && 'owner',
    sites: roles.sites.map((s) => ({ ...s, role: 'owner' as const })),
  };
}

/** What is wrong with a password that somebody chose; undefined for one that will do. */
export function passwordFault(password: string, name: string): string | undefined {
  if (password.length < 12) return 'A password needs at least 12 characters.';
  if (password.length > 200) return 'A password has at most 200 characters.';
  if (new Set(password).size < 5) return 'A password needs at least five different characters.';
  if (password.toLowerCase().includes(name.toLowerCase()) && name.length > 2)
    return 'A password must not have the name in it.';
  return undefined;
}
