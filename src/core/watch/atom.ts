import { xmlText } from '../handover/xmlText';
import type { Notice } from './notices';

/** A notice as a feed has it. */
export interface FeedEntry extends Notice {
  readonly id: number;
  /** ISO time. */
  readonly at: string;
}

/**
 * Notices as an Atom feed (RFC 4287), the latest first.
 * @param feed its own address; ids of entries are made from it
 */
export function atomFeed(
  site: { readonly name: string; readonly createdAt: string },
  entries: readonly FeedEntry[],
  feed: string,
): string {
  const origin = new URL(feed).origin;
  return [
    '<?xml version="1.0" encoding="utf-8"?>',
    '<feed xmlns="http://www.w3.org/2005/Atom">',
    `  <title>${xmlText(`Keen Lens: ${site.name}`)}</title>`,
    `  <id>${xmlText(feed)}</id>`,
    `  <link rel="self" type="application/atom+xml" href="${xmlText(feed)}"/>`,
    `  <updated>${xmlText(entries[0]?.at ?? site.createdAt)}</updated>`,
    '  <author><name>Keen Lens</name></author>',
    ...entries.flatMap((e) => [
      '  <entry>',
      `    <title>${xmlText(e.title)}</title>`,
      `    <id>${xmlText(`${feed}#${e.id}`)}</id>`,
      `    <updated>${xmlText(e.at)}</updated>`,
      `    <link href="${xmlText(origin + e.path)}"/>`,
      `    <category term="${e.kind}"/>`,
      `    <content type="text">${xmlText(e.lines.join('\n'))}</content>`,
      '  </entry>',
    ]),
    '</feed>',
    '',
  ].join('\n');
}
