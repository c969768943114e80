import type { ReportFacts, ReportFix } from './facts';
import { html, type Html } from './html';
import { ENGLISH, type Words } from './words';

/** Parts that the reports of all readers have. */

/** One sentence: what a visitor waits for, and what the worthwhile fixes make of it. */
export function sentenceOf(facts: ReportFacts, words: Words = ENGLISH): string {
  const { nowMs, afterMs, range, pages } = facts.head;
  const n = facts.fixes.filter((f) => f.worthwhile).length;
  const wait = {
    visitor: words.orOwn(facts.visitor.who),
    time: words.time(nowMs),
    page: words.text(pages === 1 ? 'this page' : 'an average page'),
  };
  if (n === 0)
    return words.text(
      '{visitor} waits {time} for the main picture or text of {page}; no fix that was examined would shorten that noticeably.',
      wait,
    );
  const brought = { ...wait, n, timeAfter: words.time(afterMs), range: words.timeRange(range) };
  return n === 1
    ? words.text(
        '{visitor} waits {time} for the main picture or text of {page}; one fix brings that to {timeAfter} ({range}).',
        brought,
      )
    : words.text(
        '{visitor} waits {time} for the main picture or text of {page}; {n} fixes bring that to {timeAfter} ({range}).',
        brought,
      );
}

/** What was not examined: nothing is passed over. */
export function notExamined(facts: ReportFacts, words: Words): Html {
  const reasons = new Map<string, number>();
  for (const n of facts.notExamined) reasons.set(n.why, (reasons.get(n.why) ?? 0) + 1);
  return html`<h2>${words.text('What was not examined')}</h2>
    ${
      reasons.size === 0
        ? html`<p>${words.text('Nothing was left out of what this tool examines.')}</p>`
        : html`<ul>
            ${[...reasons].map(([why, n]) => html`<li>${words.phrase(why)}${n > 1 && html` <span class="soft">(${words.text('{n} pages', { n })})</span>`}</li>`)}
          </ul>`
    }`;
}

/** Bars from now to the last worthwhile fix, each with its range. */
export function staircase(facts: ReportFacts, words: Words): Html {
  const steps = [
    { name: words.text('now'), ms: facts.head.nowMs, range: undefined as ReportFix['afterRange'] | undefined },
    ...facts.fixes
      .filter((f) => f.worthwhile)
      .map((f, i) => ({ name: String(i + 1), ms: f.afterMs, range: f.afterRange })),
  ];
  const width = 760;
  const most = Math.max(1, ...steps.flatMap((s) => [s.ms, s.range?.[1] ?? 0]));
  const x = (ms: number) => 44 + (ms / most) * (width - 130);
  const n = (value: number) => value.toFixed(1);
  const said = words.text('Hero paint (LCP): {steps}', {
    steps: steps.map((s) => `${s.name} ${words.time(s.ms)}`).join(', '),
  });
  return html`<figure>
    <svg viewBox="0 0 ${width} ${steps.length * 26 + 6}" width="100%" role="img" aria-label="${said}">
      ${steps.map((s, i) => {
        const y = i * 26 + 6;
        return html`<text x="36" y="${y + 13}" text-anchor="end">${s.name}</text
          ><rect
            x="44"
            y="${y}"
            width="${n(x(s.ms) - 44)}"
            height="16"
            fill="${i === 0 ? '#9a4f22' : '#1d6660'}"
          />${s.range && html`<line x1="${n(x(s.range[0]))}" x2="${n(x(s.range[1]))}" y1="${y + 8}" y2="${y + 8}" stroke="#23302b" stroke-width="2" />`}<text
            x="${n(Math.max(x(s.ms), x(s.range?.[1] ?? 0)) + 8)}"
            y="${y + 13}"
            >${words.time(s.ms)}</text
          >`;
      })}
    </svg>
    <figcaption>
      ${words.text(
        'Time until the main part is visible, after each fix and all above it; the line on a bar is its range.',
      )}
    </figcaption>
  </figure>`;
}
