import { object, string } from 'yup';
import { applyFixes } from '../../../../core/fixes/applyFixes';
import { retimedHar } from '../../../../core/handover/retimedHar';
import { simulate } from '../../../../core/load/simulate';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { groupKey } from '../../../../core/plan/groupKey';
import { VERSION } from '../../../../core/version';
import { store } from '../../../../engine/services/openedStore';
import { getCapture } from '../../../../engine/store/captures';
import { download, idOf, notFound, query, route } from '../../_answer';

const schema = object({ visitor: string().default(DEFAULT_VISITOR.id), bench: string().max(2000).default('') });

/** The capture as a HAR 1.2 with the times that a visitor would see with the fixes of a bench applied. */
export const GET = route(async (context) => {
  const full = await getCapture(await store(), idOf(context));
  if (!full) return notFound('There is no such capture.', context.url.pathname);
  const q = query(context, schema);
  const keys = new Set(q.bench.split('.'));
  const fixed = applyFixes(
    full.audit.graph,
    full.audit.fixes.filter((f) => keys.has(groupKey(f.group))),
  );
  const har = retimedHar(full.capture, fixed, simulate(fixed, parseVisitor(q.visitor)), VERSION);
  return download(JSON.stringify(har, null, 1), 'application/json', `retimed-${full.row.id}.har`);
});
