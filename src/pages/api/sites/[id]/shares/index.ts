import { number, object, string } from 'yup';
import { READERS, type Reader } from '../../../../../core/handover/report/facts';
import { DEFAULT_VISITOR, parseVisitor, visitorSpec } from '../../../../../core/load/visitors';
import { store } from '../../../../../engine/services/openedStore';
import { reportedSweep } from '../../../../../engine/services/makeReport';
import { addShare, listShares } from '../../../../../engine/store/shares';
import { findSite } from '../../../../../engine/store/sites';
import { body, idOf, json, notFound, originOf, route } from '../../../_answer';

const schema = object({
  reader: string()
    .oneOf([...READERS])
    .required('Say for whom.'),
  visitor: string().max(200).default(DEFAULT_VISITOR.id),
  /** Undefined for the latest sweep, whichever that is when the link is opened. */
  sweep: number().integer().min(1),
  days: number().integer().min(1).max(365).default(30),
});

/** Links by which reports of a site can be read. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listShares(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Makes one; its address is told this once. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const input = await body(context, schema);
  await reportedSweep(db, site.id, input.sweep);
  const { id, token } = await addShare(db, site.id, {
    reader: input.reader as Reader,
    visitor: visitorSpec(parseVisitor(input.visitor)),
    sweepId: input.sweep ?? null,
    endsAt: new Date(Date.now() + input.days * 86_400_000).toISOString(),
  });
  return json({ id, address: `${await originOf(context)}/shared/${token}` }, 201);
});
