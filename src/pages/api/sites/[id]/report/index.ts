import { number, object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor, visitorSpec } from '../../../../../core/load/visitors';
import { READERS } from '../../../../../core/handover/report/facts';
import { InputError } from '../../../../../core/capture/errors';
import { FORMATS, FORMATS_OF } from '../../../../../core/handover/report/formats';
import { reportInThread } from '../../../../../engine/services/reportInThread';
import { store } from '../../../../../engine/services/openedStore';
import { findSite } from '../../../../../engine/store/sites';
import { download, idOf, notFound, query, route } from '../../../_answer';
import { REPORT_POLICY } from '../../../../../server/policy';
import { REPORT_TYPES } from '../_reportTypes';

const schema = object({
  sweep: number().integer().min(1),
  reader: string().oneOf(READERS).required(),
  format: string().oneOf(FORMATS).default('html'),
  visitor: string().default(DEFAULT_VISITOR.id),
  /** Shown instead of kept: for HTML only. */
  show: string().oneOf(['1']),
});

/** A report of a sweep for an owner, a fixer or an auditor, to keep or to look at. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const q = query(context, schema);
  if (!FORMATS_OF[q.reader].includes(q.format))
    throw new InputError(
      `The report for the ${q.reader} does not come as ${q.format}.`,
      'format',
      `It comes as ${FORMATS_OF[q.reader].join(', ')}.`,
    );
  const { bytes, day } = await reportInThread(db, {
    siteId: site.id,
    sweepId: q.sweep,
    reader: q.reader,
    format: q.format,
    // Refused here, where it is asked for.
    visitor: visitorSpec(parseVisitor(q.visitor)),
  });
  if (q.show && q.format === 'html')
    return new Response(bytes as BodyInit, {
      headers: {
        'content-type': REPORT_TYPES.html,
        'content-security-policy': REPORT_POLICY,
        'cache-control': 'no-store',
      },
    });
  return download(bytes, REPORT_TYPES[q.format], `${q.reader}-${day}.${q.format}`);
});
