import { defineMiddleware } from 'astro:middleware';
import { createHash } from 'node:crypto';
import { whatIsWrong } from './engine/services/ready';
import { Gate, SAFE_HEADERS } from './server/gate';
import { POLICY } from './server/policy';
import { gathering } from './server/served';

/** Where our own server has not stood before already (src/server/serve.ts), as in development. */
const gate = process.env.KEEN_LENS_GATED ? undefined : new Gate(process.env.KEEN_LENS_PASSWORD || undefined);

/** Guards every page and API call, says what keeps the server from working, and adds safe headers. */
export const onRequest = defineMiddleware(async (context, next) => {
  const { request } = context;
  const refused = gate?.check({
    method: request.method,
    path: context.url.pathname,
    header: (name) => request.headers.get(name) ?? undefined,
    address: context.clientAddress,
  });
  if (refused) return new Response(refused.text, { status: refused.status, headers: refused.headers });
  // npm start asks for /api/health at once, so that jobs which a crash left behind go on by themselves.
  const fault = await whatIsWrong();
  const response = fault
    ? unavailable(fault, context.url.pathname.startsWith('/api/'))
    : await tagged(request, await gathering(() => next()));
  const headers = response.headers;
  if (!headers.has('content-security-policy')) headers.set('content-security-policy', POLICY);
  for (const [name, value] of Object.entries(SAFE_HEADERS)) headers.set(name, value);
  return response;
});

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

function unavailable({ what, where, next }: { what: string; where: string; next: string }, api: boolean): Response {
  if (api) return Response.json({ error: { what, where, next } }, { status: 503, headers: { 'retry-after': '3' } });
  const safe = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
  return new Response(
    `<!doctype html><html lang="en"><meta charset="utf-8"><title>Keen Lens cannot work</title>
<body style="font: 1.1rem/1.5 system-ui, sans-serif; max-width: 40rem; margin: 4rem auto; padding: 0 1rem">
<h1>Keen Lens cannot work</h1><p>${safe(what)}</p><p>Where: <code>${safe(where)}</code></p><p>Next: ${safe(next)}</p>`,
    { status: 503, headers: { 'content-type': 'text/html; charset=utf-8', 'retry-after': '3' } },
  );
}
