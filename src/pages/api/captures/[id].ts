import { boolean, object } from 'yup';
import { viewCapture, wholeCapture } from '../../../engine/services/captureView';
import { store } from '../../../engine/services/openedStore';
import { idOf, json, notFound, query, route } from '../_answer';

/**
 * Everything about one capture: loads, findings, fixes with their source changes, source, graph, trust; with
 * `source=false` without source, changes and graph, which may be large.
 */
export const GET = route(async (context) => {
  const { source } = query(context, object({ source: boolean().default(true) }));
  const view = await (source ? wholeCapture : viewCapture)(await store(), idOf(context));
  return view ? json(view) : notFound('There is no such capture.', context.url.pathname);
});
