import { object, string } from 'yup';
import { store } from '../../../../engine/services/openedStore';
import { deviceIn, getAudits, listCaptures } from '../../../../engine/store/captures';
import { concernsOfFindings, countCauses } from '../../../../engine/store/findings';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';

/** Captures of a sweep for one device with graphs and fixes: what the bench forecasts with. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const wanted = query(context, object({ device: string().oneOf(['phone', 'desktop']).default('phone') })).device as
    'phone' | 'desktop';
  const device = await deviceIn(db, sweep.id, wanted);
  const audits = await getAudits(db, await listCaptures(db, sweep.id, device));
  const concerns = await concernsOfFindings(
    db,
    audits.map((a) => a.row.id),
  );
  return json({
    sweep,
    device,
    counts: await countCauses(db, sweep.id, device),
    pages: audits.map(({ row, audit }) => {
      const own = concerns.get(row.id) ?? {};
      // A fix of nothing but muted findings is not offered.
      const fixes = audit.fixes.filter((f) => f.findings.some((id) => id in own));
      return { row, graph: audit.graph, fixes, concerns: own };
    }),
  });
});
