import { header, type Load } from '../capture/capture';
import { cachePolicy } from '../source/cachePolicy';
import { preloads } from '../source/linkHeader';
import type { Page } from '../source/page';

/**
 * Whether a visitor's browser has a file from Early Hints (RFC 8297) when the page asks for it: browsers keep it in the
 * cache until then, so one that must not be kept is fetched a second time. A recording that accepted any certificate keeps
 * nothing and sees the second one only; visitors of a good certificate do not.
 */
export function comesEarly(page: Page, load: Load): boolean {
  return load.fromEarlyHints === true || (isHinted(page, load) && mayBeKept(load));
}

/** Whether Early Hints name a file and the browser heeded them: it does so over HTTP/2. */
export function isHinted(page: Page, { url }: Load): boolean {
  const document = page.capture.loads[page.capture.documentIndex];
  if (document?.protocol !== 'h2' || !document.earlyHints) return false;
  return page.headerLinks.some((link) => link.early && preloads(link, url));
}

/** Whether a response may be used again without a question: it says for how long, or when it was changed last (RFC 9111, 4.2). */
function mayBeKept(load: Load): boolean {
  const { mayStore, freshS } = cachePolicy(load);
  const changed = header(load.responseHeaders, 'last-modified') !== undefined;
  return mayStore && (freshS === undefined ? changed : freshS > 0);
}
