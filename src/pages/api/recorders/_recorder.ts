import type { APIContext } from 'astro';
import { InputError } from '../../../core/capture/errors';

/** The token and name of the recorder that asks. @throws InputError without a name */
export function recorderOf(context: APIContext): { readonly tokenId: number; readonly name: string } {
  let name = '';
  try {
    name = decodeURIComponent(context.request.headers.get('x-recorder') ?? '')
      .trim()
      .slice(0, 120);
  } catch {
    // Stays without a name.
  }
  const tokenId = context.locals.who?.token?.id;
  if (!name || tokenId === undefined)
    throw new InputError('The recorder says no name.', 'X-Recorder', 'Send its name in the header X-Recorder.');
  return { tokenId, name };
}
