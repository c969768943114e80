import { isEnough, roleOn, seesSite } from '../../core/people/roles';
import type { Store } from '../../engine/store/store';
import { ruleOf } from './rules';
import { sitesOfRequest, sitesReferred } from './siteOfRequest';
import type { Who } from './who';

/** Whether a request may go on: `log in` where somebody has to say first who they are. */
export type Verdict =
  | { readonly may: true; readonly siteId?: number }
  | { readonly may: false; readonly why: 'log in' | 'not allowed' | 'not there' };

/** Judges a request by who asks, and what it needs where. */
export async function judge(store: Store, who: Who | undefined, method: string, url: URL): Promise<Verdict> {
  const { need, named } = ruleOf(method, url.pathname);
  if (need === 'open') return { may: true };
  if (!who) return { may: false, why: 'log in' };
  const isRecorder = who.token?.scope === 'record';
  if (need === 'recorder') return isRecorder ? { may: true } : { may: false, why: 'not allowed' };
  if (isRecorder) return { may: false, why: 'not allowed' };
  const everywhere = who.roles.everywhere;
  // Whose site it is matters only where it is written down.
  if (everywhere === 'administrator')
    return { may: true, siteId: who.name && method !== 'GET' ? await oneSite(store, url) : undefined };
  const found = await sitesOfRequest(store, url);
  // Whoever sees all sites also sees what belongs to none, as an import does that has not found its own yet.
  const sites = found === 'unknown' && everywhere !== undefined ? 'none' : found;
  // What is not there, or not for this account's eyes, looks the same.
  if (sites === 'unknown') return { may: false, why: 'not there' };
  if (sites !== 'none' && !sites.every((id) => seesSite(who.roles, id))) return { may: false, why: 'not there' };
  if (need === 'somebody') return { may: true };
  const has = sites === 'none' ? everywhere : lowest(sites.map((id) => roleOn(who.roles, id)));
  if (named && isEnough(has, need)) return { may: true, siteId: sites === 'none' ? undefined : sites[0] };
  return { may: false, why: 'not allowed' };
}

type RoleOrNone = ReturnType<typeof roleOn>;

const lowest = (roles: readonly RoleOrNone[]): RoleOrNone =>
  roles.find((role) => roles.every((other) => role === undefined || isEnough(other, role)));

async function oneSite(store: Store, url: URL): Promise<number | undefined> {
  const sites = await sitesOfRequest(store, url);
  return typeof sites === 'string' ? undefined : sites[0];
}

/** Whether everything that a body names by number belongs to sites that an account sees. */
export async function seesAll(store: Store, who: Who, body: Readonly<Record<string, unknown>>): Promise<boolean> {
  if (who.roles.everywhere !== undefined) return true;
  for (const [key, value] of Object.entries(body))
    for (const id of await sitesReferred(store, key, value)) if (!seesSite(who.roles, id)) return false;
  return true;
}
