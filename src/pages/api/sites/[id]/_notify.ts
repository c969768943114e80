import { HIDDEN } from '../../../../core/site/settings';
import type { Store } from '../../../../engine/store/store';
import { notifySettings, type NotifySettings } from '../../../../engine/store/watch/notices';

/** How notices of a site leave, without the secret of the webhook. */
export async function shownNotify(store: Store, siteId: number): Promise<NotifySettings> {
  const settings = await notifySettings(store, siteId);
  return {
    ...settings,
    webhook: settings.webhook && { url: settings.webhook.url, secret: settings.webhook.secret && HIDDEN },
  };
}
