import { viewCapture } from '../../../engine/services/captureView';
import { store } from '../../../engine/services/openedStore';
import { idOf, json, notFound, route } from '../_answer';

/** Everything about one capture: loads, findings, fixes with their source changes, source, graph, trust. */
export const GET = route(async (context) => {
  const view = await viewCapture(await store(), idOf(context));
  return view ? json(view) : notFound('There is no such capture.', context.url.pathname);
});
