import { object, string } from 'yup';
import { MOVE_STEPS } from '../../../../../core/move/steps';
import { currentSweep } from '../../../../../core/site/currentSweep';
import { moveFacts } from '../../../../../engine/services/moveFacts';
import { store } from '../../../../../engine/services/openedStore';
import { moveJobs } from '../../../../../engine/store/jobs';
import { listMoveSteps, saveMoveStep, type MoveStepRow } from '../../../../../engine/store/moveSteps';
import { findSite } from '../../../../../engine/store/sites';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { body, idOf, json, notFound, route } from '../../../_answer';

const schema = object({
  step: string()
    .oneOf(MOVE_STEPS.map((s) => s.id))
    .required(),
  state: string().oneOf(['open', 'doing', 'done', 'skipped']),
  owner: string().trim().max(100),
  due: string()
    .matches(/^\d{4}-\d{2}-\d{2}$/, 'A day is written YYYY-MM-DD.')
    .nullable(),
  note: string().trim().max(2000),
});

/** The steps of a site's move to https: what people noted, what can be seen, and the dry runs made so far. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const sweep = currentSweep(await listSweeps(db, site.id));
  const facts = await moveFacts(db, site.id, sweep?.id ?? null);
  const noted = new Map((await listMoveSteps(db, site.id)).map((s) => [s.step, s]));
  return json({
    steps: MOVE_STEPS.map(({ proof, ...step }) => ({
      ...step,
      noted: noted.get(step.id) ?? null,
      proof: proof?.(facts) ?? null,
      visible: proof !== undefined,
    })),
    runs: await moveJobs(db, site.id),
  });
});

/** Notes something about a step: what is not sent stays as it was. */
export const PUT = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const { step, ...sent } = await body(context, schema);
  return json(await saveMoveStep(db, site.id, step, sent as Partial<MoveStepRow>));
});
