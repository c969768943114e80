import type { Message } from '../../../core/watch/notices';
import { sealerOf } from '../sealed';
import type { Store } from '../store';
import type { NoticeRow } from './notices';

/** A message of a site as it leaves. */
export interface Outgoing extends Message {
  readonly site: { readonly id: number; readonly name: string };
  readonly notices: readonly NoticeRow[];
}

export interface DeliveryRow {
  readonly id: number;
  readonly siteId: number;
  readonly channel: 'mail' | 'webhook';
  readonly state: 'waiting' | 'sending' | 'sent' | 'failed';
  readonly tries: number;
  readonly nextAt: number;
  readonly error: string | null;
  readonly createdAt: string;
  readonly endedAt: string | null;
}

const columns = [
  'id',
  'site_id as siteId',
  'channel',
  'state',
  'tries',
  'next_at as nextAt',
  'error',
  'created_at as createdAt',
  'ended_at as endedAt',
] as const;

/** Deliveries of a site that are kept. */
const KEPT = 200;
/** One that was being sent for so long was cut off with its process, in ms. */
const CUT_OFF_MS = 120_000;

export async function addDelivery(
  store: Store,
  channel: DeliveryRow['channel'],
  message: Outgoing,
  now: Date,
): Promise<void> {
  await store
    .insertInto('deliveries')
    .values({
      site_id: message.site.id,
      channel,
      content: (await sealerOf(store)).seal(JSON.stringify(message)),
      state: 'waiting',
      tries: 0,
      next_at: now.getTime(),
      created_at: now.toISOString(),
    })
    .execute();
  await store
    .deleteFrom('deliveries')
    .where('site_id', '=', message.site.id)
    .where('state', 'in', ['sent', 'failed'])
    .where('id', 'not in', (q) =>
      q
        .selectFrom('deliveries as latest')
        .select('latest.id')
        .where('latest.site_id', '=', message.site.id)
        .orderBy('latest.id', 'desc')
        .limit(KEPT),
    )
    .execute();
}

/** Deliveries of a site, the latest first. */
export function listDeliveries(store: Store, siteId: number, limit = 50): Promise<DeliveryRow[]> {
  return store
    .selectFrom('deliveries')
    .select(columns)
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .limit(limit)
    .execute();
}

/** Deliveries whose time has come, with what was cut off while it was sent. */
export function dueDeliveries(store: Store, now: Date): Promise<DeliveryRow[]> {
  return store
    .selectFrom('deliveries')
    .select(columns)
    .where((e) =>
      e.or([
        e.and([e('state', '=', 'waiting'), e('next_at', '<=', now.getTime())]),
        e.and([e('state', '=', 'sending'), e('next_at', '<=', now.getTime() - CUT_OFF_MS)]),
      ]),
    )
    .orderBy('id')
    .limit(100)
    .execute();
}

/** Takes a delivery for this process, with its message; undefined when another process has it. */
export async function claimDelivery(store: Store, row: DeliveryRow, now: Date): Promise<Outgoing | undefined> {
  const claimed = await store
    .updateTable('deliveries')
    .set({ state: 'sending', tries: row.tries + 1, next_at: now.getTime() })
    .where('id', '=', row.id)
    .where('state', '=', row.state)
    .where('tries', '=', row.tries)
    .returning('content')
    .executeTakeFirst();
  return claimed && (JSON.parse((await sealerOf(store)).open(claimed.content)) as Outgoing);
}

/** Notes how a try went: sent, to be tried again at a time, or given up. */
export async function noteDelivery(
  store: Store,
  id: number,
  result: { readonly sent: true } | { readonly error: string; readonly again?: Date },
  now: Date,
): Promise<void> {
  const again = 'error' in result ? result.again : undefined;
  await store
    .updateTable('deliveries')
    .set({
      state: 'sent' in result ? 'sent' : again ? 'waiting' : 'failed',
      error: 'error' in result ? result.error.slice(0, 500) : null,
      next_at: again?.getTime() ?? now.getTime(),
      ended_at: again ? null : now.toISOString(),
    })
    .where('id', '=', id)
    .execute();
}
