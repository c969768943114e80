import { fieldPlainly } from '../../field/words';
import { pathOf } from '../../capture/url';
import { effectText, timeRangeText, timeText } from '../effectText';
import type { Hands, ReportFacts, ReportFix } from './facts';
import { filmStrip, letterhead, lookStyle, sinceLast, realVisits } from './extras';
import { dataAddress, documentOf, html, type Html } from './html';

const MOST_SCREENS = 3;
const MOST_FIXES = 8;
const MOST_SAFETY = 8;

/** Who makes a change, for somebody who orders it. */
const WHO: Readonly<Record<Hands, string>> = {
  markup: 'whoever edits the pages',
  styles: 'whoever writes the styles',
  server: 'whoever runs the server',
  pictures: 'whoever adds the pictures',
  'third party': 'the other company',
};

/** What a kind of fix does, for somebody who does not build pages. */
const PLAIN: Readonly<Record<ReportFix['kind'], string>> = {
  'hero-eager': 'The browser requests the main picture at once instead of waiting until it is scrolled near.',
  'hero-priority': 'The browser is told that this picture matters most.',
  'hero-preload': 'The browser learns of the main picture at the top of the page instead of at its end.',
  'offscreen-lazy':
    'Pictures further down wait until a visitor comes near them, and leave the line to the first screen.',
  'script-defer': 'The program runs after the page is there instead of before.',
  'script-async': 'The program no longer holds up the page.',
  preconnect: 'The connection to another company’s server is opened before it is needed.',
  'font-preload': 'The font is requested at once instead of when its text is drawn.',
  'http-upgrade': 'The file is requested over the encrypted connection, so that browsers accept it.',
  dimensions: 'Pictures get their space before they arrive, so that nothing jumps.',
  'style-nonblocking': 'Styles that the first screen does not need no longer hold it up.',
  'style-inline-critical': 'The styles of the first screen come with the page itself; the rest follows.',
  'style-remove-unused': 'Styles that no part of the page uses are left out.',
  'import-flatten': 'Styles are requested together instead of one after the other.',
  'font-swap': 'Text shows in another font until its own has arrived.',
  'font-convert': 'The font is sent in a smaller format.',
  'text-compress': 'Pages, styles and programs are sent packed, at about a quarter of their size.',
  minify: 'Spaces and comments that only developers read are left out.',
  'redirect-skip': 'The page names the right address at once, without a detour over an old one.',
  'cache-policy': 'Browsers may keep files, so that the next visit is faster.',
  hsts: 'Browsers use the encrypted connection from the first request on.',
  'server-faster': 'The server answers sooner.',
  'self-host': 'The file comes from the own server instead of another company’s.',
  'image-resize': 'Pictures are sent as large as they are shown, not larger.',
};

/** One sentence: what a visitor waits for, and what the worthwhile fixes make of it. */
export function sentenceOf(facts: ReportFacts): string {
  const { nowMs, afterMs, range, pages } = facts.head;
  const worthwhile = facts.fixes.filter((f) => f.worthwhile).length;
  const wait = `${facts.visitor.who} waits ${timeText(nowMs)} for the main picture or text of ${pages === 1 ? 'this page' : 'an average page'}`;
  if (worthwhile === 0) return `${wait}; no fix that was examined would shorten that noticeably.`;
  return `${wait}; ${worthwhile === 1 ? 'one fix brings' : `${worthwhile} fixes bring`} that to ${timeText(afterMs)} (${timeRangeText(range)}).`;
}

/** The report for whoever owns the site: what is wrong, what it costs, what to order. No jargon. */
export function ownerHtml(facts: ReportFacts): string {
  const { head, visitor } = facts;
  const fixes = facts.fixes.filter((f) => f.worthwhile);
  return documentOf(
    `How ${head.site} loads, ${head.day}`,
    html`${letterhead(facts.look)}
      <h1>How ${head.site} loads</h1>
      <p class="soft">
        ${head.day}. ${head.pages === 1 ? 'One page was examined' : `${head.pages} pages were examined`}. All times are
        forecasts for: ${visitor.who.replace(/^A/, 'a')}.
      </p>
      <p class="lead">${sentenceOf(facts)}</p>
      <h2>What a visitor sees</h2>
      <div class="screens">
        ${facts.pages.slice(0, MOST_SCREENS).map(
          (p) =>
            html`<figure>
              ${p.picture && html`<img src="${dataAddress(p.picture)}" alt="First screen of ${p.title || p.page}" />`}
              <figcaption>
                ${p.title || pathOf(p.page)}<br />Main part visible after
                <span class="now">${timeText(p.now.lcpMs)}</span>; with the fixes after
                <span class="after">${timeText(p.after.lcpMs)}</span>.
              </figcaption>
            </figure>`,
        )}
      </div>
      ${filmStrip(facts.film)}
      ${
        fixes.length > 0 &&
        html`<h2>What to do, in this order</h2>
          ${staircase(facts)}
          <table>
            <caption>
              What each fix saves on top of those above it, for this visitor. Ranges say where the result most probably
              lies.
            </caption>
            <tr>
              <th>Fix</th>
              <th>Saves</th>
              <th class="n">Work</th>
              <th>Done by</th>
            </tr>
            ${fixes.slice(0, MOST_FIXES).map(
              (f) =>
                html`<tr>
                  <td>${f.title}<br /><span class="soft">${PLAIN[f.kind]}</span></td>
                  <td>${effectText(f.addedMs, f.addedRange)}</td>
                  <td class="n">about ${f.effort} min</td>
                  <td>${WHO[f.hands]}</td>
                </tr>`,
            )}
          </table>
          ${fixes.length > MOST_FIXES && html`<p class="soft">${fixes.length - MOST_FIXES} more save less; the report for fixers has them.</p>`}`
      }
      <h2>Is it safe?</h2>
      ${
        facts.safety.length === 0
          ? html`<p>
              Nothing was found that browsers refuse, warn of, or that others on the way could read or change.
            </p>`
          : html`<ul>
                ${facts.safety.slice(0, MOST_SAFETY).map(({ finding, pages }) => html`<li>${finding.plain} <span class="soft">(${pages.length === 1 ? 'on one page' : `on ${pages.length} pages`})</span></li>`)}
              </ul>
              ${facts.safety.length > MOST_SAFETY && html`<p class="soft">${facts.safety.length - MOST_SAFETY} more of this kind are in the auditor’s report.</p>`}`
      }
      ${sinceLast(facts.since)}
      <h2>All pages</h2>
      <table>
        <tr>
          <th>Page</th>
          <th class="n">Now</th>
          <th class="n">With the fixes</th>
        </tr>
        ${facts.pages.map(
          (p) =>
            html`<tr>
              <td>
                ${p.title || pathOf(p.page)}<br /><span class="soft">${p.page}</span
                >${realVisits(facts.field?.[p.page], fieldPlainly)}
              </td>
              <td class="n now">${timeText(p.now.lcpMs)}</td>
              <td class="n after">${timeText(p.after.lcpMs)}</td>
            </tr>`,
        )}
      </table>
      <h2>What the words mean</h2>
      <dl>
        <dt>Main part visible</dt>
        <dd>
          The moment when the largest picture or text of the first screen is there. Trade term: Largest Contentful Paint
          (LCP).
        </dd>
        <dt>Forecast</dt>
        <dd>
          The recorded page is loaded again in a model of the visitor’s phone or computer and connection, with and
          without each fix.
        </dd>
      </dl>
      ${notExamined(facts)}`,
    lookStyle(facts.look),
  );
}

/** What was not examined: nothing is passed over. */
export function notExamined(facts: ReportFacts): Html {
  const reasons = new Map<string, number>();
  for (const n of facts.notExamined) reasons.set(n.why, (reasons.get(n.why) ?? 0) + 1);
  return html`<h2>What was not examined</h2>
    ${
      reasons.size === 0
        ? html`<p>Nothing was left out of what this tool examines.</p>`
        : html`<ul>
            ${[...reasons].map(([why, n]) => html`<li>${why}${n > 1 && html` <span class="soft">(${n} pages)</span>`}</li>`)}
          </ul>`
    }`;
}

/** Bars from now to the last worthwhile fix, each with its range. */
export function staircase(facts: ReportFacts): Html {
  const steps = [
    { name: 'now', ms: facts.head.nowMs, range: undefined as ReportFix['afterRange'] | undefined },
    ...facts.fixes
      .filter((f) => f.worthwhile)
      .map((f, i) => ({ name: String(i + 1), ms: f.afterMs, range: f.afterRange })),
  ];
  const width = 760;
  const most = Math.max(1, ...steps.flatMap((s) => [s.ms, s.range?.[1] ?? 0]));
  const x = (ms: number) => 44 + (ms / most) * (width - 130);
  const n = (value: number) => value.toFixed(1);
  return html`<figure>
    <svg
      viewBox="0 0 ${width} ${steps.length * 26 + 6}"
      width="100%"
      role="img"
      aria-label="Hero paint (LCP): ${steps.map((s) => `${s.name} ${timeText(s.ms)}`).join(', ')}"
    >
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
            >${timeText(s.ms)}</text
          >`;
      })}
    </svg>
    <figcaption>
      Time until the main part is visible, after each fix and all above it; the line on a bar is its range.
    </figcaption>
  </figure>`;
}
