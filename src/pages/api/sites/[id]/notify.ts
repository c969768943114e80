import { randomBytes } from 'node:crypto';
import { array, boolean, object, string } from 'yup';
import { HIDDEN } from '../../../../core/site/settings';
import { InputError } from '../../../../core/capture/errors';
import { store } from '../../../../engine/services/openedStore';
import { findSite } from '../../../../engine/store/sites';
import { notifySettings, saveNotifySettings } from '../../../../engine/store/watch/notices';
import { tryWays } from '../../../../engine/watch/tryWays';
import { body, idOf, json, notFound, route } from '../../_answer';
import { shownNotify } from './_notify';

const schema = object({
  mailTo: array(string().trim().email('This is no mail address.').max(200).required()).max(20).required(),
  monthly: boolean().required(),
  webhook: object({
    url: string().trim().max(2000).required('State the address of the webhook.'),
    secret: string().max(200).default(''),
  })
    .nullable()
    .default(null),
});

/** How the notices of a site leave. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await shownNotify(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Sets it. An empty secret makes a new one, which is answered once. */
export const PUT = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const input = await body(context, schema);
  const stored = await notifySettings(db, site.id);
  const { webhook } = input;
  if (webhook && !/^https?:\/\//.test(URL.canParse(webhook.url) ? webhook.url : ''))
    throw new InputError('The webhook has no web address.', 'webhook.url', 'Write https:// and the rest.');
  const secret = webhook?.secret === HIDDEN ? stored.webhook?.secret : webhook?.secret;
  const made = webhook && !secret ? randomBytes(24).toString('base64url') : undefined;
  await saveNotifySettings(db, site.id, {
    mailTo: input.mailTo,
    monthly: input.monthly,
    webhook: webhook ? { url: webhook.url, secret: secret || (made as string) } : undefined,
  });
  return json({ ...(await shownNotify(db, site.id)), ...(made && { newSecret: made }) });
});

/** Sends a test message by every way that is set, at once; answers how each went. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json(await tryWays(db, site));
});
