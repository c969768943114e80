import { object, string } from 'yup';
import { InputError } from '../../../core/capture/errors';
import { store } from '../../../engine/services/openedStore';
import { addToken, listTokens, TOKEN_SCOPES } from '../../../engine/store/fleet/tokens';
import { body, json, route } from '../_answer';

/** Tokens of whoever asks; all of them for an administrator. */
export const GET = route(async (context) => {
  const { who } = context.locals;
  const all = who?.roles.everywhere === 'administrator';
  return json(await listTokens(await store(), all ? undefined : (who?.account?.id ?? 0)));
});

const schema = object({
  name: string().trim().max(80).required('Give the token a name.'),
  scope: string()
    .oneOf(TOKEN_SCOPES, `A scope is one of ${TOKEN_SCOPES.join(', ')}.`)
    .required('Say what it may do.'),
});

/** Makes a token; the answer is the only time that it is shown. */
export const POST = route(async (context) => {
  const { who } = context.locals;
  const { name, scope } = await body(context, schema);
  // A recorder is given passwords of sites: only who may change everything hands out a token for one.
  if (scope === 'record' && who?.roles.everywhere !== 'administrator')
    throw new InputError('Only an administrator makes tokens for recorders.', 'scope', 'Ask one of them.');
  if (who?.token) throw new InputError('A token makes no tokens.', 'authorization', 'Log in with a password.');
  return json(await addToken(await store(), { name, scope, accountId: who?.account?.id ?? null }), 201);
});
