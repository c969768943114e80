import { log } from '../log';
import { appSetting } from '../store/appSettings';
import type { Store } from '../store/store';
import { claimDelivery, dueDeliveries, noteDelivery, type DeliveryRow, type Outgoing } from '../store/watch/deliveries';
import { notifySettings } from '../store/watch/notices';
import { sendMail } from './mail';
import { postWebhook } from './webhook';

/** Waits between tries, in minutes; after the last one a delivery is given up. */
export const RETRY_MINUTES = [1, 5, 30, 120, 480];

/** Sends what waits; what fails waits longer each time. */
export async function deliverWaiting(store: Store, now = new Date()): Promise<void> {
  for (const row of await dueDeliveries(store, now)) {
    const message = await claimDelivery(store, row, now);
    if (!message) continue;
    try {
      await send(store, row, message);
      await noteDelivery(store, row.id, { sent: true }, now);
    } catch (error) {
      const minutes = RETRY_MINUTES[row.tries];
      const text = error instanceof Error ? error.message : String(error);
      log.warn({ delivery: row.id, error: text }, 'a notice could not be delivered');
      const again = minutes === undefined ? undefined : new Date(now.getTime() + minutes * 60_000);
      await noteDelivery(store, row.id, { error: text, again }, now);
    }
  }
}

async function send(store: Store, row: DeliveryRow, message: Outgoing): Promise<void> {
  const to = await notifySettings(store, row.siteId);
  if (row.channel === 'mail') {
    const server = await appSetting(store, 'mail');
    if (!server) throw new Error('No mail server is set.');
    if (to.mailTo.length === 0) return;
    await sendMail(server, { to: to.mailTo, subject: message.subject, text: message.text });
  } else if (to.webhook) {
    await postWebhook(to.webhook, row.id, message);
  }
}
