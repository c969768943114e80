import type { APIContext, APIRoute } from 'astro';
import { store } from '../../engine/services/openedStore';
import type { Store } from '../../engine/store/store';
import { findSweep } from '../../engine/store/sweeps';
import { remembered } from '../../server/remembered';
import { idOf, notFound, route } from './_answer';

type Sweep = NonNullable<Awaited<ReturnType<typeof findSweep>>>;

/**
 * A route about a sweep, which answers from memory as long as nothing in the database changes: only for what rests on
 * nothing but the database and the address.
 */
export const sweepRoute = (run: (context: APIContext, db: Store, sweep: Sweep) => Promise<Response>): APIRoute =>
  route(
    remembered(async (context) => {
      const db = await store();
      const sweep = await findSweep(db, idOf(context));
      return sweep ? run(context, db, sweep) : notFound('There is no such sweep.', context.url.pathname);
    }),
  );
