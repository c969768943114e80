import type { APIRoute } from 'astro';
import { store } from '../engine/services/openedStore';
import { endSession } from '../engine/store/people/sessions';
import { noSession } from '../server/access/cookies';
import { PLAIN_COOKIE, SECURE_COOKIE } from '../server/access/who';

/** Ends the session of whoever asks. */
export const POST: APIRoute = async ({ cookies }) => {
  const db = await store();
  for (const name of [SECURE_COOKIE, PLAIN_COOKIE]) {
    const secret = cookies.get(name)?.value;
    if (secret) await endSession(db, secret);
  }
  const response = new Response(null, { status: 303, headers: { location: '/login', 'cache-control': 'no-store' } });
  for (const cookie of noSession()) response.headers.append('set-cookie', cookie);
  return response;
};
