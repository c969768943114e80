import { store } from '../../../engine/services/openedStore';
import { addVisitor, listVisitors } from '../../../engine/store/ownVisitors';
import { body, json, route } from '../_answer';
import { visitorSchema } from './_visitor';

/** Visitors that users have made up; the built-in ones are known to every client. */
export const GET = route(async () => json(await listVisitors(await store())));

/** Saves a visitor. */
export const POST = route(async (context) =>
  json(await addVisitor(await store(), await body(context, visitorSchema)), 201),
);
