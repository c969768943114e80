import { hostOf } from '../../core/capture/url';
import { presetOf, type SweepSettings } from '../../core/site/settings';
import { count } from '../ui/format';

/** What a sweep with these settings will do, as a sentence for people. */
export function settingsSentence(s: SweepSettings): string {
  const sources = [
    s.followLinks ? 'follows links from the home page' : '',
    s.sitemaps ? 'reads the sitemaps' : '',
    s.list.length > 0 ? `takes ${count(s.list.length, 'address', 'addresses')} from your list` : '',
  ].filter(Boolean);
  const scope = `${hostOf(s.home)}${s.subdomains ? ' and its subdomains' : ''}`;
  const pace =
    s.perSecond === 0
      ? `as fast as the server responds, ${s.parallel} at a time`
      : `at most ${count(s.perSecond, 'request')} a second`;
  const pages = s.captures.maxPages;
  const recorded =
    pages === 0 || s.captures.devices.length === 0
      ? 'Nothing is recorded by a browser.'
      : `Then a browser records ${recordedPages(s.captures.order)}, up to ${count(pages, 'page')}, as ${s.captures.devices.join(' and ')}, ${timesEach(s.captures.runs)}.`;
  return `It ${listed(sources)} on ${scope}, up to ${count(s.maxPages, 'page')}, ${pace}. ${recorded}`;
}

/** The same as short facts, for a sweep that was made. */
export function settingsFacts(s: SweepSettings): readonly (readonly [string, string])[] {
  return [
    ['Home', s.home],
    [
      'Sources',
      [s.followLinks && 'links', s.sitemaps && 'sitemaps', s.list.length > 0 && `list of ${s.list.length}`]
        .filter(Boolean)
        .join(', '),
    ],
    ['Subdomains', s.subdomains ? 'yes' : 'no'],
    ['Only', s.include.join('  ') || 'everything'],
    ['Not', s.exclude.join('  ') || 'nothing'],
    ['Ignored parameters', s.ignoreParameters.join('  ') || 'none'],
    ['Depth and pages', `${s.maxDepth} links, ${count(s.maxPages, 'page')}`],
    [
      'Pace',
      `${presetOf(s)?.name ?? 'custom'}: ${s.perSecond === 0 ? 'no limit' : `${s.perSecond} a second`}, ${s.parallel} at a time`,
    ],
    [
      'Obeys',
      [s.obeyRobots && 'robots.txt', s.obeyNoindex && 'noindex', s.obeyNofollow && 'nofollow']
        .filter(Boolean)
        .join(', ') || 'nothing',
    ],
    ['User agent', s.userAgent],
    ['Headers', s.headers.map((h) => h.name).join(', ') || 'none'],
    ['Signs in', s.basicAuth ? `as ${s.basicAuth.username}` : 'no'],
    [
      'Recorded',
      s.captures.maxPages === 0
        ? 'nothing'
        : `${count(s.captures.maxPages, 'page')}, ${s.captures.devices.join(' and ')}, ${timesEach(s.captures.runs)}, ${s.captures.order === 'all-pages' ? 'all pages' : `one a template, ${s.captures.order === 'links-in' ? 'most linked first' : 'largest templates first'}`}`,
    ],
  ];
}

/** @param runs missing in sweeps that were made before it could be chosen */
function timesEach(runs: number | undefined): string {
  return (runs ?? 1) === 1 ? 'once each' : `${runs} times each`;
}

/** Pages of one template load alike, so one of each is recorded unless all are asked for. */
function recordedPages(order: SweepSettings['captures']['order']): string {
  return order === 'all-pages'
    ? 'the home page, one page of each template, then all others'
    : 'the home page and one page of each template';
}

function listed(parts: readonly string[]): string {
  if (parts.length === 0) return 'has no source of pages';
  return parts.length === 1 ? (parts[0] ?? '') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1) ?? ''}`;
}
