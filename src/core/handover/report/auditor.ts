import { fieldSentence } from '../../field/words';
import { bytesText } from '../../checks/texts';
import { CONCERNS } from '../../checks/concern';
import { timeText } from '../effectText';
import type { ReportFacts } from './facts';
import { letterhead, lookStyle, realVisits } from './extras';
import { documentOf, html } from './html';
import { notExamined, sentenceOf, staircase } from './owner';

/** The report for whoever audits: every page and every finding with its evidence. */
export function auditorHtml(facts: ReportFacts): string {
  const { head } = facts;
  const findings = facts.pages.flatMap((p) => p.findings);
  return documentOf(
    `Audit of ${head.site}, ${head.day}`,
    html`${letterhead(facts.look)}
      <h1>Audit of ${head.site}</h1>
      <p class="soft">
        ${head.day}. ${head.pages === 1 ? '1 page' : `${head.pages} pages`}, forecasts for ${head.visitor}.
      </p>
      <p class="lead">${sentenceOf(facts)}</p>
      ${staircase(facts)}
      <h2>Pages</h2>
      <table>
        <tr>
          <th>Page</th>
          <th class="n">First paint (FCP)</th>
          <th class="n">Hero paint (LCP)</th>
          <th class="n">With the fixes</th>
          <th class="n">Bytes</th>
        </tr>
        ${facts.pages.map(
          (p) =>
            html`<tr>
              <td>
                ${p.page}<br /><span class="soft">${p.title}, recorded ${p.recordedAt.slice(0, 10)}</span
                >${realVisits(facts.field?.[p.page], fieldSentence)}
              </td>
              <td class="n">${timeText(p.now.fcpMs)}</td>
              <td class="n now">${timeText(p.now.lcpMs)}</td>
              <td class="n after">${timeText(p.after.lcpMs)}</td>
              <td class="n">${bytesText(p.now.bytes)}</td>
            </tr>`,
        )}
      </table>
      ${CONCERNS.map((c) => {
        const own = findings.filter((f) => f.concern === c.id);
        return html`<h2>${c.name}: ${own.length === 1 ? '1 finding' : `${own.length} findings`}</h2>
          <p class="soft">${c.question}</p>
          ${
            own.length > 0 &&
            html`<table>
              <tr>
                <th>Harm</th>
                <th>Finding</th>
                <th>Where</th>
              </tr>
              ${own.map(
                (f) =>
                  html`<tr>
                    <td>${f.harm}</td>
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
      ${notExamined(facts)}`,
    lookStyle(facts.look),
  );
}
