import { effectText } from '../effectText';
import { serverText, tasksMarkdown } from '../tasks';
import { notExamined, sentenceOf, staircase } from './owner';
import type { Hands, ReportFacts, ReportFix } from './facts';
import { letterhead, lookStyle } from './extras';
import { documentOf, html, type Html } from './html';

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
export function fixerHtml(facts: ReportFacts): string {
  const { head } = facts;
  return documentOf(
    `Tasks for ${head.site}, ${head.day}`,
    html`${letterhead(facts.look)}
      <h1>Tasks for ${head.site}</h1>
      <p class="soft">${head.day}. Forecasts are for hero paint (LCP), ${head.visitor}, on top of the tasks before.</p>
      <p class="lead">${sentenceOf(facts)}</p>
      ${staircase(facts)}
      ${byHands(facts).map(
        (g) =>
          html`<h2>${g.name}</h2>
            ${g.fixes.map(task)}`,
      )}
      ${notExamined(facts)}`,
    lookStyle(facts.look),
  );
}

function task(f: ReportFix): Html {
  return html`<h3>${f.title}</h3>
    <p class="soft">
      ${effectText(f.addedMs, f.addedRange)}${!f.worthwhile && '; next to nothing on top of the others'} · about
      ${f.effort} min · ${f.pages.length === 1 ? '1 page' : `${f.pages.length} pages`}
    </p>
    ${f.changes.slice(0, MOST_CHANGES).map(
      (c) =>
        html`<p><code>${c.url}</code>, line ${c.line}, column ${c.column}:</p>
          <pre>${c.before.split('\n').map((l) => `- ${l}\n`)}${c.after.split('\n').map((l) => `+ ${l}\n`)}</pre>`,
    )}
    ${f.changes.length > MOST_CHANGES && html`<p class="soft">and ${f.changes.length - MOST_CHANGES} more places like these.</p>`}
    ${
      f.server.length > 0 &&
      html`<ul>
        ${f.server.map((s) => html`<li>${serverText(s)}</li>`)}
      </ul>`
    }
    ${
      f.fixedWhen.length > 0 &&
      html`<p>Done when:</p>
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
