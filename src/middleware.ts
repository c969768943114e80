import { timingSafeEqual } from 'node:crypto';
import { defineMiddleware } from 'astro:middleware';
import { startRunner } from './engine/jobs/runner';

const POLICY =
  "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; script-src 'self' 'unsafe-inline'; worker-src 'self' blob:; font-src 'self' data:; connect-src 'self'; frame-ancestors 'none'; base-uri 'self'; form-action 'self'";

/** Guards every request: password where one is set, our own host names only without one, and safe headers. */
export const onRequest = defineMiddleware(async (context, next) => {
  // npm start asks for /api/health at once, so that jobs which a crash left behind go on by themselves.
  startRunner();
  const password = process.env.KEEN_LENS_PASSWORD;
  if (password) {
    const given = /^Basic (.+)$/i.exec(context.request.headers.get('authorization') ?? '')?.[1] ?? '';
    const [, ...rest] = Buffer.from(given, 'base64').toString('utf8').split(':');
    if (!same(rest.join(':'), password)) {
      return new Response('A password is needed.', {
        status: 401,
        headers: { 'www-authenticate': 'Basic realm="Keen Lens", charset="UTF-8"' },
      });
    }
  } else if (!/^(localhost|127\.\d+\.\d+\.\d+|\[::1\])(:\d+)?$/i.test(context.request.headers.get('host') ?? '')) {
    // A page of somebody else's whose name leads here must not read captures.
    return new Response('Keen Lens answers on this machine only.', { status: 403 });
  }
  if (!['GET', 'HEAD', 'OPTIONS'].includes(context.request.method) && isThirdParty(context.request.headers)) {
    return new Response('Changes are taken from our own pages only.', { status: 403 });
  }
  const response = await next();
  const headers = response.headers;
  if (!headers.has('content-security-policy')) headers.set('content-security-policy', POLICY);
  headers.set('x-content-type-options', 'nosniff');
  headers.set('referrer-policy', 'no-referrer');
  headers.set('cross-origin-resource-policy', 'same-origin');
  return response;
});

/** True for a request that another site's page set off (Fetch, Origin header; Fetch Metadata). */
function isThirdParty(headers: Headers): boolean {
  const site = headers.get('sec-fetch-site');
  if (site && site !== 'same-origin' && site !== 'none') return true;
  const origin = headers.get('origin');
  if (!origin) return false;
  try {
    return new URL(origin).host !== headers.get('host');
  } catch {
    return true;
  }
}

function same(a: string, b: string): boolean {
  const x = Buffer.from(a);
  const y = Buffer.from(b);
  return x.length === y.length && timingSafeEqual(x, y);
}
