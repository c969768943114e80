import { writeMany } from './manyRows';
import type { Store } from './store';

/** What the whole of a sweep is worked out from. */
export interface SweepGraphRows {
  readonly pages: readonly {
    readonly id: number;
    readonly url: string;
    readonly origin: string;
    readonly status: number | null;
    readonly answerMs: number | null;
    readonly redirectTo: string | null;
    readonly redirectKind: string | null;
    readonly outside: string | null;
    readonly fingerprint: string | null;
    readonly type: string | null;
  }[];
  /** Pairs from, to: ids of pages. */
  readonly links: readonly { readonly from: number; readonly to: number }[];
  readonly fingerprints: readonly { readonly fingerprint: string; readonly features: string }[];
}

/** Reads pages and links of a sweep, narrow. */
export async function readGraph(store: Store, sweepId: number): Promise<SweepGraphRows> {
  const pages = await store
    .selectFrom('pages')
    .select([
      'id',
      'url',
      'origin',
      'status',
      'answer_ms as answerMs',
      'redirect_to as redirectTo',
      'redirect_kind as redirectKind',
      'outside',
      'fingerprint',
      'type',
    ])
    .where('sweep_id', '=', sweepId)
    .execute();
  const links = await store
    .selectFrom('links')
    .select(['from_id as from', 'to_id as to'])
    .distinct()
    .where('sweep_id', '=', sweepId)
    .where('to_id', 'is not', null)
    .$narrowType<{ to: number }>()
    .execute();
  const fingerprints = await store
    .selectFrom('fingerprints')
    .select(['fingerprint', 'features'])
    .where('sweep_id', '=', sweepId)
    .execute();
  return { pages, links, fingerprints };
}

/** What was worked out for one page. */
export interface PageOutcome {
  readonly id: number;
  readonly depth: number | null;
  readonly linksIn: number;
  readonly linksMissing: number;
  readonly linksRedirected: number;
  readonly hopCount: number;
  readonly hops: string | null;
  readonly finalUrl: string | null;
  readonly finalStatus: number | null;
  readonly template: string | null;
}

/** Stores what was worked out, in one transaction. */
export async function saveOutcome(
  store: Store,
  sweepId: number,
  pages: readonly PageOutcome[],
  templates: readonly { template: string; name: string; pages: number }[],
): Promise<void> {
  await writeMany(store, (writer) => {
    writer.write(
      `update pages set depth = ?, links_in = ?, links_missing = ?, links_redirected = ?, hop_count = ?, hops = ?,
        final_url = ?, final_status = ?, template = ? where id = ?`,
      pages.map((p) => [
        p.depth,
        p.linksIn,
        p.linksMissing,
        p.linksRedirected,
        p.hopCount,
        p.hops,
        p.finalUrl,
        p.finalStatus,
        p.template,
        p.id,
      ]),
    );
    writer.write('delete from templates where sweep_id = ?', [[sweepId]]);
    writer.write(
      'insert into templates (sweep_id, template, name, pages) values (?, ?, ?, ?)',
      templates.map((t) => [sweepId, t.template, t.name, t.pages]),
    );
  });
}
