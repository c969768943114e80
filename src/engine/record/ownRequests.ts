import type { CDPSession } from 'playwright-core';

/** What a site wants to see with each request, and who may see it. */
export interface SiteSecrets {
  readonly headers?: Readonly<Record<string, string>>;
  readonly basicAuth?: { readonly username: string; readonly password: string };
  /** True for addresses that may be sent them. */
  readonly own: (url: string) => boolean;
}

interface Paused {
  readonly requestId: string;
  readonly request: { readonly url: string; readonly headers: Readonly<Record<string, string>> };
}

interface AuthRequired {
  readonly requestId: string;
  readonly authChallenge: { readonly source?: string; readonly origin: string };
}

/**
 * Adds headers to the requests of the site itself, and answers its questions for a password, one request after the
 * other (Fetch domain of the DevTools protocol): each hop of a redirect is a request of its own. Without headers and
 * password nothing is held up.
 */
export async function sendSecrets(session: CDPSession, secrets: SiteSecrets): Promise<void> {
  const headers = Object.entries(secrets.headers ?? {});
  if (headers.length === 0 && !secrets.basicAuth) return;
  const names = new Set(headers.map(([name]) => name.toLowerCase()));
  const asked = new Set<string>();
  session.on('Fetch.requestPaused', (e: Paused) => {
    const before = Object.entries(e.request.headers).filter(([name]) => !names.has(name.toLowerCase()));
    const all = secrets.own(e.request.url) ? [...before, ...headers] : before;
    const changed = headers.length > 0;
    session
      .send('Fetch.continueRequest', {
        requestId: e.requestId,
        ...(changed ? { headers: all.map(([name, value]) => ({ name, value })) } : {}),
      })
      .catch(() => undefined);
  });
  session.on('Fetch.authRequired', (e: AuthRequired) => {
    // A password that was refused once is not offered again.
    const may = e.authChallenge.source !== 'Proxy' && secrets.own(e.authChallenge.origin) && !asked.has(e.requestId);
    asked.add(e.requestId);
    session
      .send('Fetch.continueWithAuth', {
        requestId: e.requestId,
        authChallengeResponse:
          may && secrets.basicAuth
            ? { response: 'ProvideCredentials', ...secrets.basicAuth }
            : { response: 'CancelAuth' },
      })
      .catch(() => undefined);
  });
  await session.send('Fetch.enable', {
    patterns: [{ urlPattern: '*' }],
    handleAuthRequests: secrets.basicAuth !== undefined,
  });
}

/** The values that must not be found anywhere in a recording. */
export function secretValues(secrets: Omit<SiteSecrets, 'own'>): string[] {
  const { username, password } = secrets.basicAuth ?? {};
  return [
    ...Object.values(secrets.headers ?? {}),
    ...(password ? [password, Buffer.from(`${username}:${password}`).toString('base64')] : []),
  ];
}
