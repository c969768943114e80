import { array, object, string } from 'yup';
import { PARTS } from '../../../../../core/watch/pageChange';
import { store } from '../../../../../engine/services/openedStore';
import { setMutings, unwatchPage } from '../../../../../engine/store/watch/watchedPages';
import { body, idOf, json, notFound, route } from '../../../_answer';

const schema = object({
  mutings: array(
    object({
      part: string()
        .oneOf([...PARTS])
        .required(),
      where: string().max(3000),
    }),
  )
    .max(500)
    .required('Say what is left aside.'),
});

/** Sets what of a page is left aside. */
export const PUT = route(async (context) => {
  const { mutings } = await body(context, schema);
  const done = await setMutings(await store(), idOf(context), idOf(context, 'page'), mutings);
  return done ? json({ mutings }) : notFound('There is no such page.', context.url.pathname);
});

/** Watches a page no longer; what was seen of it goes. */
export const DELETE = route(async (context) => {
  const gone = await unwatchPage(await store(), idOf(context), idOf(context, 'page'));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such page.', context.url.pathname);
});
