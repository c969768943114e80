import type { Decoders } from '../decoders';
import { InputError } from '../errors';
import type { ReadCapture } from '../har';
import { byAddress, isHtml, loadsOf, pageOf } from './resource';
import { WarcAnswers } from './warcAnswers';
import { WarcRecords } from './warcRecords';

export { isWarc } from './warcRecords';

const NOTES = [
  'A web archive (WARC) holds answers without the times and order of a load: waits of servers are taken as 60 ms.',
  'A web archive holds no drawn page: hero, drawn sizes and script times are estimates.',
];

/** Pages of one archive that are read; what a crawl brought beyond is said. */
const MOST_PAGES = 200;

/**
 * Reads a WARC file of version 1.0 or 1.1 (ISO 28500): every page among its answers with what that fetches. Answers that
 * were not stored again (revisit) have the contents of the one that they name.
 * @throws InputError for a broken record, and for an archive without pages
 */
export function readWarc(bytes: Uint8Array, fileName: string, decoders: Decoders = {}): ReadCapture[] {
  const records = new WarcRecords(fileName);
  const answers = new WarcAnswers(decoders);
  for (const record of records.push(bytes)) answers.take(record);
  records.end();
  return [...pagesOfWarc(answers, fileName)].flat();
}

/**
 * The pages among the answers of a whole archive, one at a time.
 * @throws InputError for an archive without pages
 */
export function* pagesOfWarc(answers: WarcAnswers, fileName: string): Generator<ReadCapture[]> {
  const notes = [...NOTES, ...answers.notes()];
  const archive = byAddress(answers.all);
  const pages = [...archive.values()].filter((r) => r.status === 200 && isHtml(r) && (r.bodyBytes ?? 0) > 0);
  if (pages.length === 0)
    throw new InputError('The web archive holds no page.', fileName, 'Archive a page with what it needs.');
  if (pages.length > MOST_PAGES)
    notes.push(`The archive holds ${pages.length} pages: the first ${MOST_PAGES} were examined.`);
  const chosen = pages.slice(0, MOST_PAGES).map((page) => loadsOf(page, archive));
  // What another page frames is part of that page.
  const framed = new Set(chosen.flatMap((p) => [...p.loads.values()].flatMap((l) => (l.frame ? [l.resource] : []))));
  const own = chosen.filter((p) => !framed.has(p.document));
  for (const page of own.length > 0 ? own : chosen) yield pageOf(page, notes, fileName);
}
