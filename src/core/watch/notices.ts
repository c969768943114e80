import type { Harm } from '../checks/concern';
import type { News } from '../site/news';
import { PARTS, type PageChange } from './pageChange';

/** Why somebody is told. */
export const NOTICE_KINDS = ['limit', 'findings', 'change', 'failure', 'well'] as const;
export type NoticeKind = (typeof NOTICE_KINDS)[number];

/** Something that people are told once. */
export interface Notice {
  readonly kind: NoticeKind;
  /** Two notices of one site with the same key are the same: the second is never made. */
  readonly key: string;
  readonly title: string;
  /** One thing a line. */
  readonly lines: readonly string[];
  /** Path of the screen that shows it, from the root of the application. */
  readonly path: string;
}

const MOST_LINES = 12;
const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];

const some = (lines: readonly string[]) =>
  lines.length <= MOST_LINES
    ? [...lines]
    : [...lines.slice(0, MOST_LINES - 1), `and ${lines.length - MOST_LINES + 1} more`];

/** Findings that are new in a sweep or came back; undefined when there are none, or only such as nobody notices. */
export function findingsNotice(news: News, siteId: number, sweepId: number): Notice | undefined {
  const told = (list: News['appeared']) => list.filter((c) => c.harm !== 'tidy');
  const [fresh, back] = [told(news.appeared), told(news.cameBack)];
  if (fresh.length + back.length === 0) return undefined;
  const counts = HARMS.flatMap((harm) => {
    const n = [...fresh, ...back].filter((c) => c.harm === harm).length;
    return n > 0 ? [`${n} ${harm}`] : [];
  });
  const total = fresh.length + back.length;
  const heading = [
    ...(fresh.length > 0 ? [`${fresh.length} new`] : []),
    ...(back.length > 0 ? [`${back.length} came back`] : []),
  ].join(', ');
  return {
    kind: 'findings',
    key: `findings ${sweepId}`,
    title: `${total === 1 ? 'Finding' : 'Findings'}: ${heading} (${counts.join(', ')})`,
    lines: some([
      ...fresh.map((c) => `new: ${c.title} (${pagesText(c.pages.length)})`),
      ...back.map((c) => `came back: ${c.title} (${pagesText(c.pages.length)})`),
    ]),
    path: `/sites/${siteId}/compare?sweep=${sweepId}`,
  };
}

const pagesText = (n: number) => (n === 1 ? '1 page' : `${n} pages`);

/** A page that changed. */
export function changeNotice(
  page: string,
  changes: readonly PageChange[],
  siteId: number,
  snapshotId: number,
): Notice | undefined {
  if (changes.length === 0) return undefined;
  const counts = PARTS.flatMap((part) => {
    const n = changes.filter((c) => c.part === part).length;
    return n === 0 ? [] : [n === 1 ? part : `${part} (${n})`];
  });
  return {
    kind: 'change',
    key: `change ${snapshotId}`,
    title: `Changed: ${page}`,
    lines: [counts.join(', '), ...some(changes.filter((c) => c.part !== 'structure').map(changeText))],
    path: `/sites/${siteId}/watch?view=changes#visit-${snapshotId}`,
  };
}

/** A change in a line: `title: "Plant sale" is now "Plant sale 2027"`. */
export function changeText({ part, where, words }: PageChange): string {
  const side = (kind: 'removed' | 'added') =>
    words
      .filter((w) => w.kind === 'same' || w.kind === kind)
      .map((w) => w.text)
      .join('');
  const cut = (text: string) => (text.length > 140 ? `${text.slice(0, 139)}…` : text);
  const [was, is] = [side('removed'), side('added')];
  const name = part === 'headers' ? `header ${where}` : part;
  if (was === '') return `${name}: "${cut(is)}" is new`;
  if (is === '') return `${name}: "${cut(was)}" is gone`;
  return `${name}: "${cut(was)}" is now "${cut(is)}"`;
}

/** The month before the one of a day, as YYYY-MM. */
export function monthBefore(day: string): string {
  const [year, month] = [Number(day.slice(0, 4)), Number(day.slice(5, 7))];
  return month === 1 ? `${year - 1}-12` : `${year}-${String(month - 1).padStart(2, '0')}`;
}

/** What is said once a month when there was nothing to say. */
export function wellNotice(month: string, runs: number, siteId: number): Notice {
  const name = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(
    new Date(`${month}-15T00:00:00Z`),
  );
  return {
    kind: 'well',
    key: `well ${month}`,
    title: `All is well: ${name}`,
    lines: [
      `${runs === 1 ? 'One run' : `${runs} runs`} of the watch, no limit broken, nothing new found, no page changed.`,
    ],
    path: `/sites/${siteId}/watch`,
  };
}

/** Notices of one run as one message. */
export interface Message {
  readonly subject: string;
  readonly text: string;
}

/**
 * One message for all notices of a run.
 * @param origin of the application, for links; without it paths are left out
 */
export function messageOf(site: string, notices: readonly Notice[], origin: string | undefined): Message {
  const [first] = notices;
  const subject =
    notices.length === 1 && first
      ? `${site}: ${first.title}`
      : `${site}: ${notices.length} notices (${first?.title ?? ''}, …)`;
  const parts = notices.map((n) =>
    [n.title, ...n.lines.map((l) => `  ${l}`), ...(origin ? [`  ${origin}${n.path}`] : [])].join('\n'),
  );
  return {
    subject: oneLine(subject).slice(0, 200),
    text: `${parts.join('\n\n')}\n\nSent by the watch of Keen Lens for ${site}.\n`,
  };
}

const oneLine = (text: string) => text.replace(/[\s\u0000-\u001f\u007f]+/g, ' ').trim();
