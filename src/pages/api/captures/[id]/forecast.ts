import { array, boolean, mixed, object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { offerContext, openCapture } from '../../../../engine/services/captureView';
import { answerForecast, resolveFixes, withMeasuredValues } from '../../../../engine/services/forecastCapture';
import { store } from '../../../../engine/services/openedStore';
import { body, idOf, json, notFound, route } from '../../_answer';

const schema = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  fixes: array(
    object({
      kind: string().required(),
      target: string().required(),
      values: mixed<Record<string, number>>(
        (v): v is Record<string, number> =>
          typeof v === 'object' && v !== null && Object.values(v).every((n) => typeof n === 'number'),
      ),
    }),
  ),
  each: boolean().default(false),
  again: boolean().default(false),
});

/** Combined forecast of fixes for one visitor; without `fixes`, of all that are offered. */
export const POST = route(async (context) => {
  const input = await body(context, schema);
  const opened = await openCapture(await store(), idOf(context));
  if (!opened) return notFound('There is no such capture.', context.url.pathname);
  const { full, page } = opened;
  const about = offerContext(full, page);
  const fixes = input.fixes
    ? await withMeasuredValues(resolveFixes(input.fixes, full.audit.fixes, about, full.audit.graph), about)
    : full.audit.fixes;
  return json(
    answerForecast(full.audit.graph, fixes, parseVisitor(input.visitor), input.each, input.again ? 'again' : 'first'),
  );
});
