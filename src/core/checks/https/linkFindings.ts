import type { CrawlFacts } from '../crawlFacts';
import { finding, type Check, type Finding, type Subject } from '../finding';

type LinkFact = CrawlFacts['links'][number];

/** One finding for each different address that links of the page lead to, as far as it fits. */
export function linkFindings(
  check: Check,
  subject: Subject,
  fits: (link: LinkFact) => boolean,
  words: (link: LinkFact) => { title: string; plain: string },
): Finding[] {
  const done = new Set<string>();
  return (subject.crawl?.links ?? []).flatMap((link) => {
    if (!fits(link) || done.has(link.url)) return [];
    done.add(link.url);
    const element = subject.page.mentionsOf(link.url).find((m) => m.use === 'link')?.element;
    return [
      finding({
        check,
        subject,
        harm: check.harms[0] ?? 'tidy',
        target: link.url,
        element,
        path: link.url,
        numbers: { status: link.status, hops: link.hops },
        ...words(link),
      }),
    ];
  });
}
