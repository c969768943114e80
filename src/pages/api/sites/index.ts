import { boolean, object, string } from 'yup';
import { seesSite } from '../../../core/people/roles';
import { typedAddress } from '../../../core/site/address';
import { DEFAULT_VISITOR, parseVisitor } from '../../../core/load/visitors';
import { store } from '../../../engine/services/openedStore';
import { summariseSites } from '../../../engine/services/summariseSites';
import { addSite, listSites } from '../../../engine/store/sites';
import { body, json, query, route } from '../_answer';

const schema = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  /** Only ids, names and homes. */
  names: boolean().default(false),
});

/** Sites with the figures of their last sweep for a visitor. */
export const GET = route(async (context) => {
  const { visitor, names } = query(context, schema);
  const roles = context.locals.who?.roles;
  const sees = (siteId: number) => roles === undefined || seesSite(roles, siteId);
  if (names) return json({ sites: (await listSites(await store())).filter((s) => sees(s.id)) });
  return json({ sites: await summariseSites(await store(), parseVisitor(visitor), sees) });
});

/** Adds a site by its home address; one that is there already is given back as it is. */
export const POST = route(async (context) => {
  const input = await body(
    context,
    object({
      name: string().trim().max(120).default(''),
      home: string().trim().required('Give the home address.').max(2000),
    }),
  );
  const url = typedAddress(input.home, 'home');
  const db = await store();
  const known = (await listSites(db)).find((s) => s.home === url.href);
  if (known) return json(known);
  return json(await addSite(db, input.name || url.hostname.replace(/^www\./, ''), url.href), 201);
});
