import { store } from '../../engine/services/openedStore';
import { listSites } from '../../engine/store/sites';
import { json, route } from './_answer';

/** Says that the server is up and its database answers. */
export const GET = route(async () => json({ ok: true, sites: (await listSites(await store())).length }));
