import type { NewPage, SweepNote, Visit } from './crawlPages';
import { writeMany, type RowWriter } from './manyRows';
import type { Store } from './store';

/** What a crawl found and visited since it last stored something. */
export interface Batch {
  readonly found: readonly NewPage[];
  readonly visits: readonly Visit[];
  readonly notes: readonly SweepNote[];
}

/**
 * Stores visits with everything they brought, in one transaction: a crash leaves whole visits or none.
 * `idOf` knows the pages stored before. Returns the ids of pages that became known by it.
 */
export function saveVisits(
  store: Store,
  sweepId: number,
  batch: Batch,
  idOf: (url: string) => number | undefined,
): Promise<Map<string, number>> {
  return writeMany(store, (writer) => {
    const ids = addPages(writer, sweepId, batch.found);
    updatePages(writer, batch.visits);
    addLinks(writer, sweepId, batch.visits, (url) => ids.get(url) ?? idOf(url));
    addMentions(writer, sweepId, batch.visits);
    addFingerprints(writer, sweepId, batch.visits);
    writer.write(
      `insert into sweep_notes (sweep_id, kind, about, count, example, source, what) values (?, ?, ?, ?, ?, ?, ?)
        on conflict (sweep_id, kind, about) do update set count = sweep_notes.count + excluded.count`,
      batch.notes.map((n) => [sweepId, n.kind, n.about, n.count, n.example, n.source, n.what]),
    );
    return ids;
  });
}

/** An address that is known already keeps its row. */
function addPages(writer: RowWriter, sweepId: number, pages: readonly NewPage[]): Map<string, number> {
  const rows = writer.read<{ id: number; url: string }>(
    `insert into pages (sweep_id, url, sealed, state, origin, level, folder, in_sitemap)
      values (?, ?, ?, 'waiting', ?, ?, ?, ?)
      on conflict (sweep_id, url) do update set in_sitemap = coalesce(pages.in_sitemap, excluded.in_sitemap)
      returning id, url`,
    pages.map((p) => [sweepId, p.url, p.sealed, p.origin, p.level, p.folder, p.inSitemap]),
  );
  return new Map(rows.map((r) => [r.url, r.id]));
}

function updatePages(writer: RowWriter, visits: readonly Visit[]): void {
  writer.write(
    `update pages set state = ?, why = ?, status = ?, type = ?, transfer_bytes = ?, decoded_bytes = ?, encoding = ?,
      protocol = ?, answer_ms = ?, total_ms = ?, fetched_at = ?, redirect_to = ?, redirect_kind = ?, outside = ?,
      title = ?, language = ?, canonical = ?, robots = ?, base = ?, links_out = ?, mentions = ?, elements = ?,
      fingerprint = ?, text_hash = ?, body_hash = ?, details = ? where id = ?`,
    visits.map((v) => [
      v.state,
      v.why,
      v.status,
      v.type,
      v.transferBytes,
      v.decodedBytes,
      v.encoding,
      v.protocol,
      v.answerMs,
      v.totalMs,
      v.fetchedAt,
      v.redirectTo,
      v.redirectKind,
      v.outside,
      v.title,
      v.language,
      v.canonical,
      v.robots,
      v.base,
      v.links.length,
      v.mentions.length,
      v.elements,
      v.fingerprint,
      v.textHash,
      v.bodyHash,
      v.details && JSON.stringify(v.details),
      v.id,
    ]),
  );
}

function addLinks(
  writer: RowWriter,
  sweepId: number,
  visits: readonly Visit[],
  idOf: (url: string) => number | undefined,
): void {
  writer.write(
    `insert into links (sweep_id, from_id, to_id, url, tag, attribute, line, col, rel, text)
      values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    visits.flatMap((v) =>
      v.links.map((l) => {
        const to = l.inside ? idOf(l.url) : undefined;
        return [
          sweepId,
          v.id,
          to,
          to === undefined ? l.url : null,
          l.tag,
          l.attribute,
          l.line,
          l.column,
          l.rel,
          l.text,
        ];
      }),
    ),
  );
}

function addMentions(writer: RowWriter, sweepId: number, visits: readonly Visit[]): void {
  writer.write(
    `insert into mentions (sweep_id, page_id, url, own, tag, attribute, use, kind, line, col, source)
      values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    visits.flatMap((v) =>
      v.mentions.map((m) => [
        sweepId,
        v.id,
        m.url,
        m.own ? 1 : 0,
        m.tag,
        m.attribute,
        m.use,
        m.kind,
        m.line,
        m.column,
        m.source,
      ]),
    ),
  );
}

function addFingerprints(writer: RowWriter, sweepId: number, visits: readonly Visit[]): void {
  const distinct = new Map(visits.flatMap((v) => (v.fingerprint && v.features ? [[v.fingerprint, v.features]] : [])));
  writer.write(
    'insert into fingerprints (sweep_id, fingerprint, features) values (?, ?, ?) on conflict do nothing',
    [...distinct].map(([fingerprint, features]) => [sweepId, fingerprint, features.join(' ')]),
  );
}
