import { serverText, tasksMarkdown } from '../tasks';
import type { Hands, ReportFacts, ReportFix } from './facts';
import { letterhead, lookStyle } from './extras';
import { documentOf, html, type Html } from './html';
import { notExamined, sentenceOf, staircase } from './parts';
import { wordsOf, type Words } from './words';

const ORDER: readonly Hands[] = ['markup', 'styles', 'pictures', 'server', 'third party'];
const NAMES: Readonly<Record<Hands, string>> = {
  markup: 'In the markup',
  styles: 'In the styles',
  pictures: 'Pictures',
  server: 'On the server',
  'third party': 'With third parties',
};
/** Places of one change that are shown. */
const MOST_CHANGES = 6;

/** Fixes of a report by who can make them, each group in the order of what it saves. */
export function byHands(
  facts: ReportFacts,
): { readonly hands: Hands; readonly name: string; readonly fixes: readonly ReportFix[] }[] {
  return ORDER.map((hands) => ({
    hands,
    name: NAMES[hands],
    fixes: facts.fixes.filter((f) => f.hands === hands),
  })).filter((g) => g.fixes.length > 0);
}

/** The report for whoever makes the changes: a task for each fix, with its place, its diff and how to check it. */
export function fixerHtml(facts: ReportFacts, words: Words = wordsOf(facts)): string {
  const { head } = facts;
  const title = words.text('Tasks for {site}', { site: head.site });
  return documentOf(
    `${title}, ${words.day(head.day)}`,
    html`${letterhead(facts.look)}
      <h1>${title}</h1>
      <p class="soft">
        ${words.day(head.day)}.
        ${words.text('Forecasts are for hero paint (LCP), {visitor}, on top of the tasks before.', { visitor: words.orOwn(head.visitor) })}
      </p>
      <p class="lead">${sentenceOf(facts, words)}</p>
      ${staircase(facts, words)}
      ${byHands(facts).map(
        (g) =>
          html`<h2>${words.text(g.name)}</h2>
            ${g.fixes.map((f) => task(f, words))}`,
      )}
      ${notExamined(facts, words)}`,
    { style: lookStyle(facts.look), language: words.language },
  );
}

function task(f: ReportFix, words: Words): Html {
  const pages = f.pages.length === 1 ? words.text('1 page') : words.text('{n} pages', { n: f.pages.length });
  return html`<h3>${words.phrase(f.title)}</h3>
    <p class="soft">
      ${words.effect(f.addedMs, f.addedRange)}${!f.worthwhile && words.text('; next to nothing on top of the others')} ·
      ${words.text('about {n} min', { n: f.effort })} · ${pages}
    </p>
    ${f.changes.slice(0, MOST_CHANGES).map(
      (c) =>
        html`<p>
            ${words.html('{url}, line {line}, column {column}:', {
              url: html`<code>${c.url}</code>`,
              line: String(c.line),
              column: String(c.column),
            })}
          </p>
          <pre>${c.before.split('\n').map((l) => `- ${l}\n`)}${c.after.split('\n').map((l) => `+ ${l}\n`)}</pre>`,
    )}
    ${f.changes.length > MOST_CHANGES && html`<p class="soft">${words.text('and {n} more places like these.', { n: f.changes.length - MOST_CHANGES })}</p>`}
    ${
      f.server.length > 0 &&
      html`<ul>
        ${f.server.map((s) => html`<li>${serverText(s)}</li>`)}
      </ul>`
    }
    ${
      f.fixedWhen.length > 0 &&
      html`<p>${words.text('Done when:')}</p>
        <ul>
          ${f.fixedWhen.map((w) => html`<li>${w}</li>`)}
        </ul>`
    }
    <p class="soft">${f.pages.join(', ')}</p>`;
}

/** The same as Markdown (CommonMark). */
export const fixerMarkdown = (facts: ReportFacts): string =>
  tasksMarkdown(
    { ...facts.head, plan: 'Tasks' },
    byHands(facts).flatMap((g) => g.fixes),
  );
