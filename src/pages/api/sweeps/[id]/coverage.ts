import { number, object, string } from 'yup';
import { COVERAGE, type CoverageState } from '../../../../core/site/coverage';
import { toCsv } from '../../../../core/handover/csv';
import { httpToo } from '../../../../engine/services/moveFacts';
import { coverageOf, coveredAddresses } from '../../../../engine/store/coverage';
import { lastProbe } from '../../../../engine/store/probes';
import { download, json, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';

const schema = object({
  by: string().oneOf(['folder', 'template']).default('folder'),
  state: string().oneOf(COVERAGE.map((c) => c.id)),
  key: string().max(2000),
  list: string().oneOf(['addresses']),
  format: string().oneOf(['csv']),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(500).default(50),
});

/** The state of every known address: counts by folder or template, or with `list=addresses` the addresses themselves. */
export const GET = sweepRoute(async (context, db, sweep) => {
  const q = query(context, schema);
  const by = q.by as 'folder' | 'template';
  const http = httpToo(await lastProbe(db, sweep.siteId));
  if (!q.list && !q.format) return json(await coverageOf(db, sweep.id, by, http));
  const filter = {
    state: q.state as CoverageState | undefined,
    ...(q.key !== undefined && { [by]: q.key }),
  };
  if (q.format === 'csv') {
    const { rows } = await coveredAddresses(db, sweep.id, filter, http, { offset: 0, limit: 1_000_000 });
    const csv = toCsv(
      ['address', 'state', 'status', 'redirects to'],
      rows.map((r) => [r.url, r.state, r.status ?? undefined, r.to ?? undefined]),
    );
    return download(csv, 'text/csv; charset=utf-8', 'https-coverage.csv');
  }
  return json(await coveredAddresses(db, sweep.id, filter, http, { offset: q.offset, limit: q.limit }));
});
