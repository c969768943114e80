import { LONGEST_MS } from '../../engine/store/people/sessions';
import { PLAIN_COOKIE, SECURE_COOKIE } from './who';

const isLoopback = (host: string) => /^(localhost|127\.\d+\.\d+\.\d+|\[::1\])(:\d+)?$/i.test(host);

/**
 * Why nobody may log in over the connection of a request: a password that travels openly is no secret. Undefined for a
 * connection by https, as its page says (Fetch, Origin header), and for this machine itself.
 */
export function whyNotHere(header: (name: string) => string | undefined): string | undefined {
  if (isLoopback(header('host') ?? '')) return undefined;
  return (header('origin') ?? '').startsWith('http://')
    ? 'Passwords are taken by https only: put a proxy with a certificate before this server, and open it by https.'
    : undefined;
}

/** The header that keeps a session: out of reach of scripts, and of other sites (RFC 6265bis). */
export function sessionCookie(host: string, secret: string): string {
  const rest = `Path=/; HttpOnly; SameSite=Lax; Max-Age=${Math.round(LONGEST_MS / 1000)}`;
  return isLoopback(host) ? `${PLAIN_COOKIE}=${secret}; ${rest}` : `${SECURE_COOKIE}=${secret}; Secure; ${rest}`;
}

/** The headers that take it back. */
export const noSession = (): string[] => [
  `${PLAIN_COOKIE}=; Path=/; HttpOnly; SameSite=Lax; Max-Age=0`,
  `${SECURE_COOKIE}=; Path=/; Secure; HttpOnly; SameSite=Lax; Max-Age=0`,
];
