import { appSetting } from '../store/appSettings';
import type { SiteRow } from '../store/sites';
import type { Store } from '../store/store';
import { notifySettings } from '../store/watch/notices';
import { sendMail } from './mail';
import { postWebhook } from './webhook';

/** How a test message went by one way. */
export interface TriedWay {
  readonly way: 'mail' | 'webhook';
  readonly to: string;
  /** Why it did not arrive; undefined when it did. */
  readonly error?: string;
}

/** Sends a test message of a site by every way that is set. */
export async function tryWays(store: Store, site: SiteRow): Promise<TriedWay[]> {
  const to = await notifySettings(store, site.id);
  const subject = `${site.name}: test message`;
  const text = `This is a test message. Notices about ${site.name} arrive this way.\n`;
  const out: TriedWay[] = [];
  const tried = async (way: TriedWay['way'], where: string, send: () => Promise<void>) => {
    const error = await send().then(
      () => undefined,
      (e: unknown) => (e instanceof Error ? e.message : String(e)),
    );
    out.push({ way, to: where, ...(error !== undefined && { error }) });
  };
  if (to.mailTo.length > 0)
    await tried('mail', to.mailTo.join(', '), async () => {
      const server = await appSetting(store, 'mail');
      if (!server) throw new Error('No mail server is set.');
      await sendMail(server, { to: to.mailTo, subject, text });
    });
  const { webhook } = to;
  if (webhook)
    await tried('webhook', webhook.url, () =>
      postWebhook(webhook, 0, { site: { id: site.id, name: site.name }, subject, text, notices: [] }),
    );
  return out;
}
