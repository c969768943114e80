import { store } from '../../../../engine/services/openedStore';
import { httpsFacts } from '../../../../engine/store/httpsFacts';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, route } from '../../_answer';

/** What a sweep saw of HTTPS coverage in its pages, recorded or not. */
export const GET = route(
  remembered(async (context) => {
    const facts = await httpsFacts(await store(), idOf(context));
    return facts ? json(facts) : notFound('There is no such sweep.', context.url.pathname);
  }),
);
