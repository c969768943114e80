import { string } from 'yup';
import { store } from '../../../engine/services/openedStore';
import { addAccount, hasAccounts, listAccounts } from '../../../engine/store/people/accounts';
import { beginSession } from '../../../engine/store/people/sessions';
import { sessionCookie, whyNotHere } from '../../../server/access/cookies';
import { InputError } from '../../../core/capture/errors';
import { body, json, route } from '../_answer';
import { rolesOf, rolesSchema } from './_account';

/** Everybody who has an account. */
export const GET = route(async () => json(await listAccounts(await store())));

const schema = rolesSchema.shape({
  name: string().trim().max(64).required('Give the account a name.'),
  /** Left out for an account that only a proxy logs in. */
  password: string().max(200),
});

/** Makes an account. Whoever makes the first is logged in with it: from then on everybody needs one. */
export const POST = route(async (context) => {
  const input = await body(context, schema);
  const header = (name: string) => context.request.headers.get(name) ?? undefined;
  const fault = whyNotHere(header);
  if (fault) throw new InputError(fault, 'password', 'Or make it on the server: keen-lens account add NAME.');
  const db = await store();
  const first = !(await hasAccounts(db));
  const account = await addAccount(db, { name: input.name, password: input.password, ...rolesOf(input) });
  const answer = json(account, 201);
  if (first && account.hasPassword)
    answer.headers.append('set-cookie', sessionCookie(header('host') ?? '', await beginSession(db, account.id)));
  return answer;
});
