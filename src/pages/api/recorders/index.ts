import { queueAddress } from '../../../engine/fleet/queueAddress';
import { store } from '../../../engine/services/openedStore';
import { countSent, listRecorders } from '../../../engine/store/fleet/recorders';
import { json, route } from '../_answer';

/** Recorders elsewhere, and what waits for them. */
export const GET = route(async (context) => {
  const db = await store();
  const sees = context.locals.who?.roles.everywhere !== undefined;
  const recorders = await listRecorders(db);
  return json({
    hasQueue: queueAddress() !== undefined,
    sent: await countSent(db),
    // Pages of sites that an account does not see are not named to it.
    recorders: sees ? recorders : recorders.map((r) => ({ ...r, busy: r.busy.map(() => 'a page') })),
  });
});
