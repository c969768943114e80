import { InputError } from '../../core/capture/errors';
import { RefusedAddressError, type Guard } from '../net/guard';
import type { RecordOptions } from './record';

/** @throws InputError for what a browser that runs already cannot do */
export function checkElsewhere(address: string, { allowPrivate, mapHosts }: RecordOptions): void {
  if (!/^(wss?|https?):\/\/[^/]+/i.test(address))
    throw new InputError(
      `"${address}" is no debugging address.`,
      '--browser',
      'Write it as ws://HOST:PORT/devtools/browser/ID, or http://HOST:PORT.',
    );
  if (!allowPrivate)
    throw new InputError(
      'Nothing filters what a browser that runs already asks for.',
      '--browser',
      'Where its pages may reach private addresses from its machine, say so with --allow-private.',
    );
  if ((mapHosts ?? []).length > 0)
    throw new InputError(
      'A browser that runs already looks up names by itself.',
      '--map-host',
      'Start that browser with --host-resolver-rules, or record without --browser.',
    );
}

/** An address that is none, or leads to what the guard refuses, is refused before a browser starts. */
export async function refusePrivate(url: string, guard: Guard): Promise<void> {
  const parsed = URL.canParse(url) ? new URL(url) : undefined;
  if (!parsed || !/^https?:$/.test(parsed.protocol))
    throw new InputError(`"${url}" is not a web address.`, 'URL', 'Write it with https:// in front.');
  try {
    await guard.resolve(parsed.hostname, Number(parsed.port) || (parsed.protocol === 'https:' ? 443 : 80));
  } catch (error) {
    // A name that does not resolve is the browser's to tell.
    if (!(error instanceof RefusedAddressError)) return;
    throw new InputError(
      `${error.message}.`,
      url,
      error.own ? 'Keen Lens does not record itself.' : 'To record it all the same use --allow-private.',
    );
  }
}
