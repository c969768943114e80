import { defineMiddleware } from 'astro:middleware';
import type { APIContext } from 'astro';
import { createHash } from 'node:crypto';
import type { InputError } from './core/capture/errors';
import { log } from './engine/log';
import { store } from './engine/services/openedStore';
import { whatIsWrong } from './engine/services/ready';
import { noteChange } from './engine/store/people/auditLog';
import { dataFolder } from './engine/store/store';
import { judge, type Verdict } from './server/access/access';
import { accountsIn } from './server/access/accountsExist';
import { ruleOf } from './server/access/rules';
import { whoAsks, type Who } from './server/access/who';
import { ADDRESS_HEADER, Gate, SAFE_HEADERS } from './server/gate';
import { POLICY } from './server/policy';
import { gathering } from './server/served';

/** Where our own server has not stood before already (src/server/serve.ts), as in development. */
const gate = process.env.KEEN_LENS_GATED
  ? undefined
  : new Gate(process.env.KEEN_LENS_PASSWORD || undefined, Date.now, accountsIn(dataFolder()));

/** Guards every page and API call, says what keeps the server from working, and adds safe headers. */
export const onRequest = defineMiddleware(async (context, next) => {
  const { request } = context;
  // Our own server states it and takes away what a request says of it.
  const address = gate ? context.clientAddress : (request.headers.get(ADDRESS_HEADER) ?? '');
  context.locals.address = address;
  const refused = gate?.check({
    method: request.method,
    path: context.url.pathname,
    header: (name) => request.headers.get(name) ?? undefined,
    address,
  });
  if (refused) return new Response(refused.text, { status: refused.status, headers: refused.headers });
  // npm start asks for /api/health at once, so that jobs which a crash left behind go on by themselves.
  const fault = await whatIsWrong();
  const response = fault
    ? unavailable(fault, context.url.pathname.startsWith('/api/'))
    : await allowed(context, address, next);
  const headers = response.headers;
  if (!headers.has('content-security-policy')) headers.set('content-security-policy', POLICY);
  for (const [name, value] of Object.entries(SAFE_HEADERS)) headers.set(name, value);
  return response;
});

/** Lets a request go on if whoever asks may do that, and notes what it changed. */
async function allowed(context: APIContext, address: string, next: () => Promise<Response>): Promise<Response> {
  const { request, url } = context;
  const db = await store();
  const who = await whoAsks(db, {
    header: (name) => request.headers.get(name) ?? undefined,
    cookie: (name) => context.cookies.get(name)?.value,
    address,
  });
  const api = url.pathname.startsWith('/api/');
  if (who === 'wrong token') return turnedAway({ may: false, why: 'log in' }, url, api, 'This token is not known.');
  const verdict = await judge(db, who, request.method, url);
  if (!verdict.may) return turnedAway(verdict, url, api);
  context.locals.who = who;
  const response = await tagged(request, await gathering(() => next()));
  if (who) await noted(who, request.method, url, verdict, response.status, address);
  return response;
}

/** Keeps in the audit log what somebody with an account or a token has changed. */
async function noted(
  who: Who,
  method: string,
  url: URL,
  verdict: Verdict & { may: true },
  status: number,
  address: string,
): Promise<void> {
  if (who.name === '' || method === 'GET' || method === 'HEAD' || status >= 400) return;
  const { says, need } = ruleOf(method, url.pathname);
  if (need === 'recorder' || need === 'open' || says === undefined) return;
  try {
    await noteChange(await store(), {
      who: who.name,
      says,
      method,
      path: url.pathname,
      siteId: verdict.siteId ?? null,
      address,
    });
  } catch (err) {
    log.warn({ err }, 'a change could not be kept in the audit log');
  }
}

function turnedAway(verdict: Verdict & { may: false }, url: URL, api: boolean, what?: string): Response {
  const { why } = verdict;
  if (why === 'log in' && !api)
    return new Response(null, {
      status: 303,
      headers: { location: `/login?to=${encodeURIComponent(url.pathname + url.search)}`, 'cache-control': 'no-store' },
    });
  const [status, text, next] =
    why === 'log in'
      ? [401, what ?? 'Nobody is logged in.', 'Log in, or send a token: Authorization: Bearer …']
      : why === 'not allowed'
        ? [403, 'This account may not do that.', 'Ask an administrator for the role that it needs.']
        : [404, 'There is nothing here that this account may see.', 'Go back to the list of sites.'];
  if (api) return Response.json({ error: { what: text, where: url.pathname, next } }, { status: Number(status) });
  return saying(Number(status), 'Not here', [String(text), String(next)]);
}

/**
 * Gives an answer of the API a weak ETag (RFC 9110, 8.8.3), since it may be compressed on its way, and answers whoever
 * has the same already with 304.
 */
async function tagged(request: Request, response: Response): Promise<Response> {
  const type = response.headers.get('content-type') ?? '';
  if (request.method !== 'GET' || response.status !== 200 || !type.startsWith('application/json')) return response;
  const body = await response.text();
  const etag = `W/"${createHash('sha256').update(body).digest('base64url').slice(0, 27)}"`;
  const headers = new Headers(response.headers);
  headers.set('etag', etag);
  headers.set('cache-control', 'private, no-cache');
  const known = (request.headers.get('if-none-match') ?? '').split(',').some((t) => t.trim() === etag);
  return new Response(known ? null : body, { status: known ? 304 : 200, headers });
}

function unavailable({ what, where, next }: InputError, api: boolean): Response {
  const again = { 'retry-after': '3' };
  if (api) return Response.json({ error: { what, where, next } }, { status: 503, headers: again });
  const page = saying(503, 'Keen Lens cannot work', [what, `Where: ${where}`, `Next: ${next}`]);
  page.headers.set('retry-after', '3');
  return page;
}

/** A page that says something and needs nothing else. */
function saying(status: number, title: string, lines: readonly string[]): Response {
  const safe = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
  return new Response(
    `<!doctype html><html lang="en"><meta charset="utf-8"><title>${safe(title)}</title>
<body style="font: 1.1rem/1.5 system-ui, sans-serif; max-width: 40rem; margin: 4rem auto; padding: 0 1rem">
<h1>${safe(title)}</h1>${lines.map((line) => `<p>${safe(line)}</p>`).join('')}`,
    { status, headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' } },
  );
}
