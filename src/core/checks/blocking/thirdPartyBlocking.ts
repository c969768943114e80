import { sameSite } from '../../capture/site';
import { transferBytes, type Load } from '../../capture/capture';
import { hostOf, originOf } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';
import { isRenderBlocking } from './verdict';

/** Other companies' servers that stand before the first paint. */
export const thirdPartyBlocking: Check = {
  id: 'third-party-blocking',
  concern: 'blocking',
  question: 'Do third-party servers block the first paint?',
  examines: 'Render-blocking scripts and styles by host, with the connection and wait time of each host.',
  cannotSee: 'How those servers vary: this is one visit.',
  fixedWhen: 'No file of that host blocks rendering any more.',
  harms: ['slow'],
  standard: 'HTML, 4.12.1 and 4.6.7.20; Resource Timing, renderBlockingStatus',
  change: 'Serve the file from a host of the site, or load it with async or defer.',
  groupedBy: 'host',
  thresholds: [
    {
      id: 'slowMs',
      name: 'slow server from',
      unit: 'ms',
      value: 300,
      why: 'More than two round trips of a busy mobile network.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    const own = hostOf(page.capture.page);
    const hosts = new Map<string, Load[]>();
    for (const load of page.capture.loads) {
      if (load.status !== 200 || sameSite(hostOf(load.url), own) || !isRenderBlocking(page, load)) continue;
      const origin = originOf(load.url);
      hosts.set(origin, [...(hosts.get(origin) ?? []), load]);
    }
    return [...hosts].map(([origin, loads]) => {
      const [first] = loads as [Load, ...Load[]];
      const bytes = loads.reduce((sum, l) => sum + transferBytes(l), 0);
      const t = first.timings;
      const waitedMs = Math.round((t.dnsMs ?? 0) + (t.connectMs ?? 0) + t.waitMs);
      const slow = waitedMs >= limitOf(this, subject, 'slowMs');
      return finding({
        check: this,
        subject,
        harm: 'slow',
        target: `${origin}/*`,
        element: page.mentionsOf(first.url)[0]?.element,
        load: first,
        files: loads,
        numbers: { files: loads.length, bytes, waitedMs },
        title: `${loads.length} blocking ${loads.length === 1 ? 'file' : 'files'} of ${hostOf(first.url)} (${bytesText(bytes)}${slow ? `, first byte after ${waitedMs} ms` : ''})`,
        plain: 'If that third-party server is slow or down, this page stays blank.',
      });
    });
  },
};
