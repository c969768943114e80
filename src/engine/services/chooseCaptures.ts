import type { CaptureSettings } from '../../core/site/settings';
import { captureCandidates, mostLinked } from '../store/captureCandidates';
import type { Store } from '../store/store';

/** A page that is to be recorded, and why. */
export interface WantedCapture {
  readonly url: string;
  readonly why: string;
}

/**
 * The pages that a sweep records: the home page, what the auditor pinned, then the most linked page of each
 * template, so that every kind of page is seen once before the number is used up.
 */
export async function chooseCaptures(
  store: Store,
  sweepId: number,
  settings: CaptureSettings,
): Promise<WantedCapture[]> {
  const { home, templates } = await captureCandidates(store, sweepId);
  const out = new Map<string, WantedCapture>();
  const add = (url: string, why: string) => {
    if (out.size < settings.maxPages && !out.has(url)) out.set(url, { url, why });
  };
  if (home) add(home, 'home page');
  for (const url of settings.pins) add(url, 'pinned');
  const order = [...templates].sort(
    settings.order === 'links-in' ? (a, b) => b.linksIn - a.linksIn : (a, b) => b.pages - a.pages,
  );
  for (const t of order)
    add(
      t.url,
      t.pages > 1 ? `most linked of ${t.name}, ${t.pages.toLocaleString('en-GB')} pages` : 'only page of its kind',
    );
  if (settings.order === 'all-pages')
    for (const url of await mostLinked(store, sweepId, settings.maxPages)) add(url, 'all pages');
  return [...out.values()];
}
