import { createHash, timingSafeEqual } from 'node:crypto';
import { Attempts } from './access/attempts';

/** Headers of every answer, of files and of pages. */
export const SAFE_HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'no-referrer',
  'cross-origin-resource-policy': 'same-origin',
};

/** The header in which our own server says where a request comes from; what others say in it is taken away. */
export const ADDRESS_HEADER = 'x-keen-lens-address';

/** What the gate looks at of a request. */
export interface Arrival {
  readonly method: string;
  /** Path of what is asked for, without its query. */
  readonly path: string;
  /** A header by its name in lower case. */
  readonly header: (name: string) => string | undefined;
  /** Address of whoever asks. */
  readonly address: string;
}

/** Why a request is turned away. */
export interface Refusal {
  readonly status: 401 | 403 | 429;
  readonly text: string;
  readonly headers: Readonly<Record<string, string>>;
}

/**
 * Stands before every request, files and API alike: a password where one is set, else our own host names only; changes
 * from our own pages only. Whoever sends wrong passwords waits longer each time. Whose account or token a request comes
 * with, and what that may do, is judged behind the gate.
 */
export class Gate {
  private readonly attempts: Attempts;

  constructor(
    private readonly password: string | undefined,
    now: () => number = Date.now,
    /** Whether people have accounts: each request then says whose it is, and is judged by that (access/access.ts). */
    private readonly accounts: () => boolean = () => false,
  ) {
    this.attempts = new Attempts(now);
  }

  /** Undefined for a request that may pass. */
  check(arrival: Arrival): Refusal | undefined {
    return (
      (isByToken(arrival) || this.accounts()
        ? undefined
        : this.password
          ? isShared(arrival)
            ? undefined
            : this.checkPassword(arrival, this.password)
          : checkHost(arrival)) ??
      (['GET', 'HEAD', 'OPTIONS'].includes(arrival.method) || !isThirdParty(arrival)
        ? undefined
        : refusal(403, 'Changes are taken from our own pages only.'))
    );
  }

  private checkPassword({ header, address }: Arrival, password: string): Refusal | undefined {
    const waitS = this.attempts.waitS(address);
    if (waitS > 0)
      return refusal(429, `Too many wrong passwords: try again in ${waitS} s.`, { 'retry-after': String(waitS) });
    const given = /^Basic\s+(\S+)$/i.exec(header('authorization') ?? '')?.[1];
    if (given !== undefined) {
      const [, ...rest] = Buffer.from(given, 'base64').toString('utf8').split(':');
      if (same(rest.join(':'), password)) {
        this.attempts.succeeded(address);
        return undefined;
      }
      this.attempts.failed(address);
    }
    return refusal(401, 'A password is needed.', { 'www-authenticate': 'Basic realm="Keen Lens", charset="UTF-8"' });
  }
}

/** A report that was shared by link opens without the password: its token cannot be guessed. */
const isShared = ({ method, path }: Arrival): boolean =>
  (method === 'GET' || method === 'HEAD') && /^\/shared\/[\w-]{32}$/.test(path);

/** A call of the API with a token: access.ts refuses it unless the token is one of ours. */
const isByToken = ({ path, header }: Arrival): boolean =>
  path.startsWith('/api/') && /^Bearer\s+\S/i.test(header('authorization') ?? '');

/** A page of somebody else's whose name leads here must not read captures (DNS rebinding). */
function checkHost({ header }: Arrival): Refusal | undefined {
  if (/^(localhost|127\.\d+\.\d+\.\d+|\[::1\])(:\d+)?$/i.test(header('host') ?? '')) return undefined;
  return refusal(403, 'Keen Lens answers on this machine only.');
}

/** True for a request that another site's page set off (Fetch, Origin header; Fetch Metadata). */
function isThirdParty({ header }: Arrival): boolean {
  const site = header('sec-fetch-site');
  // Where a page sends no Referer its forms name no Origin either (Fetch, 3.2): what the browser itself says comes first.
  if (site) return site !== 'same-origin' && site !== 'none';
  const origin = header('origin');
  if (!origin) return false;
  return !URL.canParse(origin) || new URL(origin).host !== header('host');
}

const refusal = (status: Refusal['status'], text: string, headers: Record<string, string> = {}): Refusal => ({
  status,
  text,
  headers: { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store', ...headers },
});

/** Compares digests, so that neither length nor place of a difference can be measured. */
function same(a: string, b: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
}
