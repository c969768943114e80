import { hostOf } from '../capture/url';
import type { Finding } from '../checks/finding';
import type { HttpsVersion } from '../site/httpsVersion';

/** What a visitor meets, the worst first. */
export const MEETS = ['blocked', 'upgrade fails', 'allowed', 'upgraded', 'masked'] as const;
export type Meets = (typeof MEETS)[number];

/** Where the http address is written. */
export type Written = 'markup' | 'style' | 'script' | 'redirect' | 'form';

/** One http address that a page loads or sends to. */
export interface MixedItem {
  readonly finding: string;
  readonly url: string;
  readonly meets: Meets;
  readonly written: Written;
  /** Whether the https version answers, as probed; undefined where it was not asked for. */
  readonly https?: HttpsVersion['verdict'];
}

/** What one page fetches from one insecure host. */
export interface MixedCell {
  readonly host: string;
  /** The worst of its items. */
  readonly meets: Meets;
  readonly items: readonly MixedItem[];
}

export interface MixedPage {
  readonly captureId: number;
  readonly page: string;
  readonly cells: readonly MixedCell[];
}

/** Pages by insecure host. */
export interface MixedPicture {
  /** Hosts with most pages first. */
  readonly hosts: readonly string[];
  /** Pages with the worst first; pages without mixed content are left out. */
  readonly pages: readonly MixedPage[];
  /** Recorded pages without any. */
  readonly clean: number;
}

/**
 * Puts findings of mixed content into a table of pages by host (Mixed Content, 4 and 5); a pure function.
 * @param versions what came back for the https version of an http address, by that address
 */
export function mixedPicture(
  pages: readonly { readonly captureId: number; readonly page: string; readonly findings: readonly Finding[] }[],
  versions: ReadonlyMap<string, HttpsVersion>,
): MixedPicture {
  const rows = pages.flatMap(({ captureId, page, findings }): MixedPage[] => {
    const cells = new Map<string, MixedItem[]>();
    for (const finding of findings) {
      const item =
        finding.concern === 'mixed' && /^(http|ws):/i.test(finding.target) ? itemOf(finding, versions) : undefined;
      if (!item) continue;
      const host = hostOf(item.url);
      cells.set(host, [...(cells.get(host) ?? []), item]);
    }
    if (cells.size === 0) return [];
    return [{ captureId, page, cells: [...cells].map(([host, items]) => ({ host, items, meets: worst(items) })) }];
  });
  const counts = new Map<string, number>();
  for (const row of rows) for (const { host } of row.cells) counts.set(host, (counts.get(host) ?? 0) + 1);
  return {
    hosts: [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).map(([host]) => host),
    pages: rows.sort((a, b) => rank(worst(a.cells)) - rank(worst(b.cells)) || (a.page < b.page ? -1 : 1)),
    clean: pages.length - rows.length,
  };
}

/** True for what visitors do not get to see. */
export const isMissing = ({ meets }: Pick<MixedItem, 'meets'>): boolean =>
  meets === 'blocked' || meets === 'upgrade fails';

const rank = (meets: Meets) => MEETS.indexOf(meets);
const worst = (list: readonly { readonly meets: Meets }[]): Meets =>
  list.reduce<Meets>((a, b) => (rank(b.meets) < rank(a) ? b.meets : a), 'masked');

function itemOf(finding: Finding, versions: ReadonlyMap<string, HttpsVersion>): MixedItem {
  const { target, evidence, check, harm } = finding;
  const https = versions.get(target)?.verdict;
  return { finding: finding.id, url: target, meets: meetsOf(), written: writtenOf(), ...(https && { https }) };

  function meetsOf(): Meets {
    if (check === 'mixed-form' || check === 'mixed-hint') return harm === 'tidy' ? 'masked' : 'allowed';
    if (harm === 'broken' || evidence.numbers['refused'] === 1) return 'blocked';
    const status = evidence.load?.status;
    const failed = https === 'no https' || https === 'error page' || status === 0 || (status ?? 200) >= 400;
    if (failed) return 'upgrade fails';
    return harm === 'tidy' ? 'masked' : 'upgraded';
  }

  function writtenOf(): Written {
    if (check === 'mixed-form') return 'form';
    if (check === 'mixed-style') return 'style';
    if (check === 'mixed-load') return /redirect/i.test(finding.title) ? 'redirect' : 'script';
    return 'markup';
  }
}
