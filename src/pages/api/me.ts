import { object, string } from 'yup';
import { InputError } from '../../core/capture/errors';
import { store } from '../../engine/services/openedStore';
import { accountOf, changeAccount } from '../../engine/store/people/accounts';
import { beginSession } from '../../engine/store/people/sessions';
import { sessionCookie } from '../../server/access/cookies';
import { body, json, route } from './_answer';

/** Whoever asks: name and roles; `account` is null where nobody needs one. */
export const GET = route((context) => {
  const { who } = context.locals;
  return Promise.resolve(json({ account: who?.account ?? null, roles: who?.roles ?? null }));
});

const schema = object({
  current: string().max(400).required('Give the password that you have now.'),
  password: string().max(200).required('Give the new password.'),
});

/** Changes the password of whoever asks; their other browsers are logged out. */
export const PUT = route(async (context) => {
  const { current, password } = await body(context, schema);
  const account = context.locals.who?.account;
  const db = await store();
  if (!account || context.locals.who?.token || !(await accountOf(db, account.name, current)))
    throw new InputError('This is not your password.', 'current', 'Type the one that you log in with.');
  await changeAccount(db, account.id, { password });
  const answer = json({ changed: true });
  const host = context.request.headers.get('host') ?? '';
  answer.headers.append('set-cookie', sessionCookie(host, await beginSession(db, account.id)));
  return answer;
});
