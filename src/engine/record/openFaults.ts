import { PageError } from '../../core/capture/errors';
import { redactUrl } from '../../core/capture/redact';
import type { NetworkLog } from './networkLog';

/** The page has led on to one that cannot be opened: its visitors see an error. */
export function leadsNowhere(log: NetworkLog, to: string, url: string): PageError {
  const told = log.loads.findLast((l) => l.error !== undefined)?.error ?? '';
  if (told.startsWith('not asked'))
    return new PageError(
      'The page leads to a private address: it was not asked for.',
      url,
      'To record it all the same use --allow-private.',
    );
  const code = /net::(ERR_[A-Z_]+)/.exec(told)?.[1] ?? 'no answer';
  return new PageError(
    `The page leads on to ${redactUrl(to)}, which could not be opened: ${code}.`,
    url,
    nextFor(code),
  );
}

/** What to do about an error of the network, by Chromium's code. */
export function nextFor(code: string): string {
  if (/CERT/.test(code))
    return 'The certificate is not valid for this host. To record it all the same use --accept-any-certificate.';
  if (/NAME_NOT_RESOLVED/.test(code)) return 'Check the spelling of the host, or give its address with --map-host.';
  if (/REFUSED|UNREACHABLE|TIMED_OUT|no answer/.test(code)) return 'Is the server up and reachable from this machine?';
  if (/TOO_MANY_REDIRECTS/.test(code)) return 'The address redirects in a circle: see HTTPS coverage.';
  return 'Open it in a browser on this machine to see what it says.';
}
