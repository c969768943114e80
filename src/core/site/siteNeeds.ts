import { timeText } from '../handover/effectText';

/** What is known of a site that may need attention. */
export interface SiteFacts {
  /** Limits of the watch that are broken. */
  readonly brokenLimits: number;
  /** When the first certificate of the last probe ends, in ms since 1970. */
  readonly certificateEndsMs?: number;
  /** Fixes that are said to be done and did not bring what was forecast, or whose fault is still there. */
  readonly brokenPromises: number;
  /** Average hero paint of the current sweep and the one before, in ms. */
  readonly heroMs?: number;
  readonly heroBeforeMs?: number;
  readonly unread: number;
  /** Nothing was recorded yet. */
  readonly notRecorded: boolean;
}

/** A reason to look at a site. */
export interface SiteNeed {
  readonly kind: 'limit' | 'certificate' | 'promise' | 'worse' | 'notices' | 'new';
  readonly text: string;
  /** How much it presses; reasons of all sites compare by it. */
  readonly weight: number;
}

const DAY_MS = 86_400_000;
/** A certificate that ends within so many days presses. */
const CERTIFICATE_DAYS = 21;
/** Hero paint is worse beyond both of these: less is noise. */
const WORSE = { ms: 200, share: 0.1 };

const count = (n: number, one: string, many: string) => `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`;

/** Why somebody should look at a site, the most pressing first. */
export function siteNeeds(site: SiteFacts, nowMs: number): SiteNeed[] {
  const needs: SiteNeed[] = [];
  if (site.certificateEndsMs !== undefined) {
    const days = Math.floor((site.certificateEndsMs - nowMs) / DAY_MS);
    if (days < 0)
      needs.push({ kind: 'certificate', text: `a certificate ended ${count(-days, 'day', 'days')} ago`, weight: 100 });
    else if (days <= CERTIFICATE_DAYS)
      needs.push({
        kind: 'certificate',
        text: days === 0 ? 'a certificate ends today' : `a certificate ends in ${count(days, 'day', 'days')}`,
        weight: 90 - days,
      });
  }
  if (site.brokenLimits > 0)
    needs.push({
      kind: 'limit',
      text: `${count(site.brokenLimits, 'limit', 'limits')} broken`,
      weight: 60 + Math.min(20, site.brokenLimits),
    });
  if (site.brokenPromises > 0)
    needs.push({
      kind: 'promise',
      text: `${count(site.brokenPromises, 'promise', 'promises')} not kept`,
      weight: 40 + Math.min(10, site.brokenPromises),
    });
  const { heroMs: now, heroBeforeMs: before } = site;
  if (now !== undefined && before !== undefined && now - before > Math.max(WORSE.ms, WORSE.share * before))
    needs.push({
      kind: 'worse',
      text: `hero paint ${timeText(now - before)} later than before`,
      weight: 30 + Math.min(9, (now - before) / 1000),
    });
  if (site.notRecorded) needs.push({ kind: 'new', text: 'nothing recorded yet', weight: 10 });
  if (site.unread > 0)
    needs.push({ kind: 'notices', text: `${count(site.unread, 'unread notice', 'unread notices')}`, weight: 5 });
  return needs.sort((a, b) => b.weight - a.weight);
}

/** How much a site needs attention: its reasons, the first counting most. */
export const needOf = (needs: readonly SiteNeed[]): number =>
  needs.reduce((sum, need, i) => sum + need.weight / 100 ** i, 0);
