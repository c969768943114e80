import { hostOf, originOf } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';

/** Pages that ask for very many files, hosts or connections. */
export const loadCount: Check = {
  id: 'load-count',
  concern: 'weight',
  question: 'How many requests, hosts and connections does the page need?',
  examines: 'All loads of the recording, the hosts they went to and the connections that were made.',
  cannotSee: 'Which of them other pages need as well.',
  fixedWhen: 'A new recording stays below the limits.',
  harms: ['tidy'],
  standard: 'RFC 9113, 9.1 (connections); RFC 9112, 9.4',
  change: 'Bundle small files that always load together, remove unused ones, and serve files from few hosts.',
  groupedBy: 'place',
  thresholds: [
    { id: 'loads', name: 'loads above', unit: 'count', value: 150, why: 'Twice what a page with many pictures needs.' },
    {
      id: 'hosts',
      name: 'hosts above',
      unit: 'count',
      value: 15,
      why: 'Each host costs a lookup and a handshake.',
    },
    {
      id: 'connections',
      name: 'connections above',
      unit: 'count',
      value: 40,
      why: 'Each connection starts slowly and shares the bandwidth.',
    },
  ],
  examine(subject) {
    const { capture } = subject.page;
    const loads = capture.loads.length;
    const hosts = new Set(capture.loads.map((l) => hostOf(l.url))).size;
    const named = capture.loads.flatMap((l) => (l.connection ? [`${originOf(l.url)} ${l.connection}`] : []));
    const connections =
      named.length > 0
        ? new Set(named).size
        : capture.loads.filter((l) => l.timings.connectMs !== undefined && l.timings.connectMs >= 0).length;
    const over = [
      loads > limitOf(this, subject, 'loads') && `${loads} loads`,
      hosts > limitOf(this, subject, 'hosts') && `${hosts} hosts`,
      connections > limitOf(this, subject, 'connections') && `${connections} connections`,
    ].filter(Boolean);
    const load = capture.loads[capture.documentIndex];
    if (over.length === 0) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'tidy',
        target: capture.page,
        load,
        numbers: { loads, hosts, connections },
        title: `The page needs ${over.join(', ')}`,
        plain: 'Every request and every new connection takes time, most of all on a phone.',
      }),
    ];
  },
};
