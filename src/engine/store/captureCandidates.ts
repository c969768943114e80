import { sql } from 'kysely';
import type { Store } from './store';

/** The most linked page of a template. */
export interface TemplateHead {
  readonly url: string;
  readonly name: string;
  readonly pages: number;
  readonly linksIn: number;
}

/** The home page and the head of every template of a sweep, the largest template first. */
export async function captureCandidates(
  store: Store,
  sweepId: number,
): Promise<{ home?: string; templates: TemplateHead[] }> {
  const home = await store
    .selectFrom('pages')
    .select(['url', 'final_url as finalUrl', 'final_status as finalStatus'])
    .where('sweep_id', '=', sweepId)
    .where('origin', '=', 'home')
    .executeTakeFirst();
  const heads = await sql<TemplateHead>`
    select url, name, pages, linksIn from (
      select p.url as url, t.name as name, t.pages as pages, coalesce(p.links_in, 0) as linksIn,
        row_number() over (partition by p.template order by p.links_in desc, p.url) as place
      from pages p join templates t on t.sweep_id = p.sweep_id and t.template = p.template
      where p.sweep_id = ${sweepId} and p.state = 'done' and p.status = 200 and p.redirect_to is null
    ) where place = 1 order by pages desc, linksIn desc, url`.execute(store);
  return { home: home && home.finalStatus === 200 ? (home.finalUrl ?? home.url) : undefined, templates: heads.rows };
}

/** Pages that answered with 200, the most linked first. */
export async function mostLinked(store: Store, sweepId: number, limit: number): Promise<string[]> {
  const rows = await store
    .selectFrom('pages')
    .select('url')
    .where('sweep_id', '=', sweepId)
    .where('state', '=', 'done')
    .where('status', '=', 200)
    .where('redirect_to', 'is', null)
    .orderBy('links_in', 'desc')
    .orderBy('url')
    .limit(limit)
    .execute();
  return rows.map((r) => r.url);
}
