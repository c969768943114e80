import { boolean, object, string } from 'yup';
import { store } from '../../../engine/services/openedStore';
import { changeAccount, removeAccount } from '../../../engine/store/people/accounts';
import { body, idOf, json, notFound, route } from '../_answer';
import { rolesOf, rolesSchema } from './_account';

const missing = (where: string) => notFound('There is no such account.', where);
const schema = object({ roles: rolesSchema.default(undefined), password: string().max(200), disabled: boolean() });

/** Changes roles or password of an account, or keeps it from logging in. */
export const PATCH = route(async (context) => {
  const { roles, password, disabled } = await body(context, schema);
  const account = await changeAccount(await store(), idOf(context), {
    roles: roles && rolesOf(roles),
    password,
    disabled,
  });
  return account ? json(account) : missing(context.url.pathname);
});

/** Deletes an account, with its sessions and tokens. */
export const DELETE = route(async (context) => {
  const gone = await removeAccount(await store(), idOf(context));
  return gone ? new Response(null, { status: 204 }) : missing(context.url.pathname);
});
