import { store } from '../../../engine/services/openedStore';
import { changeVisitor, removeVisitor } from '../../../engine/store/ownVisitors';
import { body, idOf, json, notFound, route } from '../_answer';
import { visitorSchema } from './_visitor';

const missing = (path: string) => notFound('There is no such visitor.', path);

/** Changes a visitor. */
export const PUT = route(async (context) => {
  const value = await changeVisitor(await store(), idOf(context), await body(context, visitorSchema));
  return value ? json(value) : missing(context.url.pathname);
});

/** Deletes a visitor. */
export const DELETE = route(async (context) => {
  const gone = await removeVisitor(await store(), idOf(context));
  return gone ? new Response(null, { status: 204 }) : missing(context.url.pathname);
});
