import type { APIRoute } from 'astro';
import { store } from '../engine/services/openedStore';
import { accountOf, hasAccounts } from '../engine/store/people/accounts';
import { noteChange } from '../engine/store/people/auditLog';
import { beginSession } from '../engine/store/people/sessions';
import { Attempts } from '../server/access/attempts';
import { sessionCookie, whyNotHere } from '../server/access/cookies';
import { loginPage } from '../server/access/loginPage';

const attempts = new Attempts();
/** Longest form that is read, in bytes. */
const LONGEST_FORM = 8192;

/** Where somebody goes after logging in: a path of ours, whatever the address says. */
function pathOf(to: string | null): string {
  const base = 'http://here.invalid';
  const url = to?.startsWith('/') && URL.canParse(to, base) ? new URL(to, base) : undefined;
  return url?.origin === base ? url.pathname + url.search : '/';
}

const redirected = (to: string) =>
  new Response(null, { status: 303, headers: { location: to, 'cache-control': 'no-store' } });

/** The body of a request of a few kilobytes; undefined for more: whoever sends it is nobody yet. */
async function smallText(request: Request): Promise<string | undefined> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    size += part.length;
    if (size > LONGEST_FORM) return undefined;
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

/** The form for name and password, which works without scripts. */
export const GET: APIRoute = async ({ url }) => {
  const to = pathOf(url.searchParams.get('to'));
  return (await hasAccounts(await store())) ? loginPage({ to, status: 200 }) : redirected(to);
};

/** Logs somebody in. Who sends wrong passwords waits longer each time, by name and by address. */
export const POST: APIRoute = async ({ request, url, locals }) => {
  const text = await smallText(request);
  if (text === undefined) return loginPage({ to: '/', status: 413, fault: 'That is no log-in.' });
  const form = new URLSearchParams(text);
  const to = pathOf(form.get('to') ?? url.searchParams.get('to'));
  const name = (form.get('name') ?? '').trim().toLowerCase().slice(0, 64);
  const header = (key: string) => request.headers.get(key) ?? undefined;
  const fault = whyNotHere(header);
  if (fault) return loginPage({ to, name, status: 400, fault });
  const address = locals.address ?? '';
  const keys = [`address ${address}`, `name ${name}`];
  const waitS = Math.max(...keys.map((key) => attempts.waitS(key)));
  if (waitS > 0)
    return loginPage({ to, name, status: 429, fault: `Too many wrong passwords: try again in ${waitS} s.`, waitS });
  const db = await store();
  const account = await accountOf(db, name, form.get('password') ?? '');
  const entry = { method: 'POST', path: '/login', siteId: null, address };
  if (!account) {
    for (const key of keys) attempts.failed(key);
    await noteChange(db, { who: name || 'nobody', says: 'tried to log in with a wrong name or password', ...entry });
    return loginPage({ to, name, status: 401, fault: 'Name or password is wrong.' });
  }
  for (const key of keys) attempts.succeeded(key);
  await noteChange(db, { who: account.name, says: 'logged in', ...entry });
  const response = redirected(to);
  response.headers.append('set-cookie', sessionCookie(header('host') ?? '', await beginSession(db, account.id)));
  return response;
};
