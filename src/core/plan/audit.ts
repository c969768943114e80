import { examinePage } from '../checks';
import { usedShares } from '../checks/blocking/usedShares';
import type { CrawlFacts } from '../checks/crawlFacts';
import type { Finding, Limits, MeasuredSizes } from '../checks/finding';
import { offerFixes } from '../fixes';
import type { Fix } from '../fixes/fix';
import { buildGraph } from '../load/build';
import type { LoadGraph } from '../load/graph';
import { findHero, type Hero } from '../load/hero';
import type { Page } from '../source/page';

/** Everything that one capture says: parsed once, examined, with fixes and graph. */
export interface Audit {
  readonly page: Page;
  readonly hero: Hero;
  readonly sizes: MeasuredSizes;
  readonly findings: readonly Finding[];
  readonly fixes: readonly Fix[];
  readonly graph: LoadGraph;
  /** How much of a stylesheet or script the page uses, 0 to 1, by address, where that was examined. */
  readonly usedShares: ReadonlyMap<string, number>;
}

/** Sizes when nothing was measured: checks estimate. */
export const NO_SIZES: MeasuredSizes = { compressed: new Map(), resized: new Map() };

/** Examines a parsed page. */
export function auditPage(
  page: Page,
  sizes: MeasuredSizes = NO_SIZES,
  given: { readonly limits?: Limits; readonly crawl?: CrawlFacts } = {},
): Audit {
  const hero = findHero(page);
  const subject = { page, hero, sizes, ...given };
  const findings = examinePage(subject);
  return {
    page,
    hero,
    sizes,
    findings,
    fixes: offerFixes(findings, subject),
    graph: buildGraph(page),
    usedShares: usedShares(page),
  };
}
