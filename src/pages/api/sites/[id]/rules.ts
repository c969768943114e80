import { array, number, object, string } from 'yup';
import { InputError } from '../../../../core/capture/errors';
import { RULES, type RuleServer } from '../../../../core/handover/redirectRules';
import { rulesFor } from '../../../../engine/services/makeRules';
import { store } from '../../../../engine/services/openedStore';
import { chosenNearest } from '../../../../engine/store/lists';
import { livingPages } from '../../../../engine/store/knownProbes';
import { lastProbe } from '../../../../engine/store/probes';
import { findSite } from '../../../../engine/store/sites';
import { currentSweep } from '../../../../core/site/currentSweep';
import { listSweeps } from '../../../../engine/store/sweeps';
import { body, download, idOf, json, notFound, query, route } from '../../_answer';

const servers = Object.keys(RULES);
const schema = object({
  server: string().oneOf(servers).required('Say which web server the rules are for.'),
  list: number().integer().min(1),
  chosen: array(object({ from: string().max(4000).required(), to: string().max(4000).defined() })).max(20_000),
});

async function make(
  context: Parameters<typeof idOf>[0],
  wanted: { server: string; list?: number; chosen?: { from: string; to: string }[] },
) {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return undefined;
  const probe = await lastProbe(db, site.id);
  if (!probe)
    throw new InputError(
      'The entrances of this site have not been probed yet.',
      site.name,
      'Probe them first: rules are made for what is found.',
    );
  const sweep = currentSweep(await listSweeps(db, site.id));
  const chosen = wanted.chosen ?? (wanted.list ? await chosenNearest(db, site.id, wanted.list) : []);
  const plan = rulesFor(probe.entrances, chosen, sweep ? await livingPages(db, sweep.id) : [], site.home);
  return { plan, rules: RULES[wanted.server as RuleServer] };
}

/** Redirect rules for what the last probe found, as a file; `list` adds missing addresses of a list with their nearest pages. */
export const GET = route(async (context) => {
  const q = query(context, schema.omit(['chosen']));
  const made = await make(context, q);
  if (!made) return notFound('There is no such site.', context.url.pathname);
  return download(made.rules.write(made.plan), 'text/plain; charset=utf-8', made.rules.file);
});

/** The same with pages chosen for missing ones; answers with the text, and what was left out of it. */
export const POST = route(async (context) => {
  const made = await make(context, await body(context, schema));
  if (!made) return notFound('There is no such site.', context.url.pathname);
  return json({ file: made.rules.file, text: made.rules.write(made.plan), refused: made.plan.refused });
});
