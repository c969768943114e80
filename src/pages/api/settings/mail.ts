import { number, object, string } from 'yup';
import { HIDDEN } from '../../../core/site/settings';
import { store } from '../../../engine/services/openedStore';
import { appSetting, saveAppSetting, type MailServer } from '../../../engine/store/appSettings';
import { sendMail } from '../../../engine/watch/mail';
import { InputError } from '../../../core/capture/errors';
import { body, json, route } from '../_answer';

const schema = object({
  host: string().trim().max(253).required('Name the mail server.'),
  port: number().integer().min(1).max(65_535).required('Name its port.'),
  security: string().oneOf(['starttls', 'tls', 'none']).required(),
  user: string().max(200).default(''),
  password: string().max(500).default(''),
  from: string().trim().email('The sender is no mail address.').max(200).required('Name the sender.'),
  /** Address under which others reach this application. */
  origin: string().trim().max(300).default(''),
});

const shown = async () => {
  const db = await store();
  const mail = await appSetting(db, 'mail');
  return {
    mail: mail ? { ...mail, password: mail.password && HIDDEN } : null,
    origin: (await appSetting(db, 'origin')) ?? '',
  };
};

/** The mail server, without its password. */
export const GET = route(async () => json(await shown()));

/** Sets it; the password is kept encrypted, apart from the sites. */
export const PUT = route(async (context) => {
  const db = await store();
  const { origin, ...input } = await body(context, schema);
  const stored = await appSetting(db, 'mail');
  if (origin && !/^https?:\/\/[^/]+$/.test(origin))
    throw new InputError('This is no origin.', 'origin', 'Write it like https://lens.example, without a path.');
  const password = input.password === HIDDEN ? (stored?.password ?? '') : input.password;
  await saveAppSetting(db, 'mail', { ...input, password } as MailServer);
  await saveAppSetting(db, 'origin', origin || undefined);
  return json(await shown());
});

/** Forgets it. */
export const DELETE = route(async () => {
  await saveAppSetting(await store(), 'mail', undefined);
  return new Response(null, { status: 204 });
});

const test = object({ to: string().trim().email('This is no mail address.').required('Say to whom.') });

/** Sends a test mail; what the server says against it is answered. */
export const POST = route(async (context) => {
  const { to } = await body(context, test);
  const server = await appSetting(await store(), 'mail');
  if (!server) throw new InputError('No mail server is set.', 'settings', 'Save one first.');
  await sendMail(server, { to: [to], subject: 'Test message of Keen Lens', text: 'Mail of Keen Lens arrives.\n' });
  return json({ sentTo: to });
});
