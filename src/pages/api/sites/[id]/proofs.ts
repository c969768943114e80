import { array, number, object, string } from 'yup';
import { InputError } from '../../../../core/capture/errors';
import { deviceOf, parseVisitor } from '../../../../core/load/visitors';
import { ownTrust } from '../../../../core/proof/learn';
import { summaryOf } from '../../../../core/proof/summary';
import { groupFixes } from '../../../../core/plan/staircase';
import { tick } from '../../../../engine/jobs/runner';
import { benchPages } from '../../../../engine/services/benchPages';
import { store } from '../../../../engine/services/openedStore';
import { startProof } from '../../../../engine/services/startJobs';
import { listProofs } from '../../../../engine/store/proofs';
import { findSite } from '../../../../engine/store/sites';
import { listSweeps } from '../../../../engine/store/sweeps';
import type { ProofsAnswer } from '../../../../islands/proofs/proofsPath';
import { body, idOf, json, notFound, route } from '../../_answer';

/** What the proofs of a site found, the latest first, and what they say of its forecasts. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const rows = await listProofs(db, site.id);
  return json({ proofs: rows.map(summaryOf), trust: ownTrust(rows.map((r) => r.proof)) } satisfies ProofsAnswer);
});

const schema = object({
  sweep: number().integer().required(),
  captures: array(number().integer().required()).min(1, 'Choose at least one page.').max(500).required(),
  groups: array(string().required()).min(1, 'Put at least one fix on the bench.').max(500).required(),
  visitor: string().max(200).required(),
  visitorName: string().trim().max(60),
  runs: number().integer().min(3).max(15),
  link: string().oneOf(['namespaces', 'userspace'] as const),
});

/** Starts proving fixes on captured pages. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const asked = await body(context, schema);
  const visitor = parseVisitor(asked.visitor);
  if (!(await listSweeps(db, site.id)).some((s) => s.id === asked.sweep))
    throw new InputError('The site has no such sweep.', 'sweep', 'Reload to see its sweeps.');
  const { pages } = await benchPages(db, asked.sweep, deviceOf(visitor));
  const captures = asked.captures.filter((id) =>
    pages.some((p) => p.row.id === id && p.fixes.some((f) => asked.groups.includes(f.group))),
  );
  if (captures.length === 0)
    throw new InputError(
      'None of these pages has any of these fixes.',
      'captures',
      'Choose pages on which a fix of the bench is offered.',
    );
  if (pages.some((p) => captures.includes(p.row.id) && p.row.thinnedAt))
    throw new InputError(
      'The files of these captures are no longer kept: they cannot be replayed.',
      'captures',
      'Choose a later sweep, or keep the files of more sweeps in its settings.',
    );
  const names = groupFixes(pages.map((p) => ({ ...p, page: p.row.page })))
    .filter((g) => asked.groups.includes(g.id))
    .map((g) => g.title);
  const { groups, runs, link } = asked;
  const job = await startProof(
    db,
    site,
    asked.sweep,
    { siteId: site.id, captures, groups, visitor: { ...visitor, name: asked.visitorName || visitor.name }, runs, link },
    names,
  );
  await tick();
  return json(job, 202);
});
