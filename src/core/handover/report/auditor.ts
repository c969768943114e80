import { bytesText } from '../../checks/texts';
import { CONCERNS } from '../../checks/concern';
import type { ReportFacts } from './facts';
import { letterhead, lookStyle, realVisits } from './extras';
import { documentOf, html } from './html';
import { notExamined, sentenceOf, staircase } from './parts';
import { wordsOf, type Words } from './words';

/** The report for whoever audits: every page and every finding with its evidence. */
export function auditorHtml(facts: ReportFacts, words: Words = wordsOf(facts)): string {
  const { head } = facts;
  const findings = facts.pages.flatMap((p) => p.findings);
  const title = words.text('Audit of {site}', { site: head.site });
  const pages = head.pages === 1 ? words.text('1 page') : words.text('{n} pages', { n: head.pages });
  return documentOf(
    `${title}, ${words.day(head.day)}`,
    html`${letterhead(facts.look)}
      <h1>${title}</h1>
      <p class="soft">
        ${words.day(head.day)}.
        ${words.text('{pages}, forecasts for {visitor}.', { pages, visitor: words.orOwn(head.visitor) })}
      </p>
      <p class="lead">${sentenceOf(facts, words)}</p>
      ${staircase(facts, words)}
      <h2>${words.text('Pages')}</h2>
      <table>
        <tr>
          <th>${words.text('Page')}</th>
          <th class="n">${words.text('First paint (FCP)')}</th>
          <th class="n">${words.text('Hero paint (LCP)')}</th>
          <th class="n">${words.text('With the fixes')}</th>
          <th class="n">${words.text('Bytes')}</th>
        </tr>
        ${facts.pages.map(
          (p) =>
            html`<tr>
              <td>
                ${p.page}<br /><span class="soft"
                  >${words.text('{title}, recorded {day}', { title: p.title, day: p.recordedAt.slice(0, 10) })}</span
                >${realVisits(facts.field?.[p.page], 'figures', words)}
              </td>
              <td class="n">${words.time(p.now.fcpMs)}</td>
              <td class="n now">${words.time(p.now.lcpMs)}</td>
              <td class="n after">${words.time(p.after.lcpMs)}</td>
              <td class="n">${words.orOwn(bytesText(p.now.bytes))}</td>
            </tr>`,
        )}
      </table>
      ${CONCERNS.map((c) => {
        const own = findings.filter((f) => f.concern === c.id);
        const count = own.length === 1 ? words.text('1 finding') : words.text('{n} findings', { n: own.length });
        return html`<h2>${words.text(c.name)}: ${count}</h2>
          <p class="soft">${words.text(c.question)}</p>
          ${
            own.length > 0 &&
            html`<table>
              <tr>
                <th>${words.text('Harm')}</th>
                <th>${words.text('Finding')}</th>
                <th>${words.text('Where')}</th>
              </tr>
              ${own.map(
                (f) =>
                  html`<tr>
                    <td>${words.text(f.harm)}</td>
                    <td>${f.title}</td>
                    <td>
                      <code
                        >${f.evidence.source ? `${f.evidence.source.url}:${f.evidence.source.line}:${f.evidence.source.column}` : f.target}</code
                      >
                    </td>
                  </tr>`,
              )}
            </table>`
          }`;
      })}
      ${notExamined(facts, words)}`,
    { style: lookStyle(facts.look), language: words.language },
  );
}
