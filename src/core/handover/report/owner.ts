import { pathOf } from '../../capture/url';
import { shortTitles } from '../../site/shortTitles';
import type { Hands, ReportFacts, ReportFix } from './facts';
import { filmStrip, letterhead, lookStyle, merged, plainCause, realVisits, sinceLast, type PageNames } from './extras';
import { dataAddress, documentOf, html } from './html';
import { notExamined, sentenceOf, staircase } from './parts';
import { wordsOf, type Words } from './words';

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
  'content-in-html': 'Texts and pictures come with the page itself instead of being made by a program later.',
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

/** The report for whoever owns the site: what is wrong, what it costs, what to order. No jargon. */
export function ownerHtml(facts: ReportFacts, words: Words = wordsOf(facts)): string {
  const { head, visitor } = facts;
  const title = words.text('How {site} loads', { site: head.site });
  const day = words.day(head.day);
  const names = namesOf(facts);
  return documentOf(
    `${title}, ${day}`,
    html`${letterhead(facts.look)}
      <h1>${title}</h1>
      <p class="soft">
        ${day}.
        ${
          head.pages === 1
            ? words.text('One page was examined.')
            : words.text('{n} pages were examined.', { n: head.pages })
        }
        ${words.text('All times are forecasts for: {visitor}.', { visitor: words.orOwn(visitor.who.replace(/^A/, 'a')) })}
      </p>
      <p class="lead">${sentenceOf(facts, words)}</p>
      ${firstScreens(facts, names, words)} ${filmStrip(facts.film, words)} ${toDo(facts, words)}
      ${safety(facts, names, words)} ${sinceLast(facts.since, names, words)}
      <h2>${words.text('All pages')}</h2>
      <table>
        <tr>
          <th>${words.text('Page')}</th>
          <th class="n">${words.text('Now')}</th>
          <th class="n">${words.text('With the fixes')}</th>
        </tr>
        ${facts.pages.map(
          (p) =>
            html`<tr>
              <td>
                ${names.get(p.page)}<br /><span class="soft">${p.page}</span
                >${realVisits(facts.field?.[p.page], 'plainly', words)}
              </td>
              <td class="n now">${words.time(p.now.lcpMs)}</td>
              <td class="n after">${words.time(p.after.lcpMs)}</td>
            </tr>`,
        )}
      </table>
      <h2>${words.text('What the words mean')}</h2>
      <dl>
        <dt>${words.text('Main part visible')}</dt>
        <dd>
          ${words.text(
            'The moment when the largest picture or text of the first screen is there. Trade term: Largest Contentful Paint (LCP).',
          )}
        </dd>
        <dt>${words.text('Forecast')}</dt>
        <dd>
          ${words.text(
            'The recorded page is loaded again in a model of the visitor’s phone or computer and connection, with and without each fix.',
          )}
        </dd>
      </dl>
      ${notExamined(facts, words)}`,
    { style: lookStyle(facts.look), language: words.language },
  );
}

function firstScreens(facts: ReportFacts, names: PageNames, words: Words) {
  return html`<h2>${words.text('What a visitor sees')}</h2>
    <div class="screens">
      ${facts.pages.slice(0, MOST_SCREENS).map((p) => {
        const title = names.get(p.page) ?? p.page;
        return html`<figure>
          ${p.picture && html`<img src="${dataAddress(p.picture)}" alt="${words.text('First screen of {title}', { title })}" />`}
          <figcaption>
            ${title}<br />${words.html('Main part visible after {now}; with the fixes after {after}.', {
              now: html`<span class="now">${words.time(p.now.lcpMs)}</span>`,
              after: html`<span class="after">${words.time(p.after.lcpMs)}</span>`,
            })}
          </figcaption>
        </figure>`;
      })}
    </div>`;
}

function toDo(facts: ReportFacts, words: Words) {
  const fixes = facts.fixes.filter((f) => f.worthwhile);
  if (fixes.length === 0) return html``;
  return html`<h2>${words.text('What to do, in this order')}</h2>
    ${staircase(facts, words)}
    <p class="note keep">
      ${words.text(
        'What each fix saves on top of those above it, for this visitor. Ranges say where the result most probably lies.',
      )}
    </p>
    <table>
      <tr>
        <th>${words.text('Fix')}</th>
        <th>${words.text('Saves')}</th>
        <th class="n">${words.text('Work')}</th>
        <th>${words.text('Done by')}</th>
      </tr>
      ${fixes.slice(0, MOST_FIXES).map(
        (f) =>
          html`<tr>
            <td>${words.phrase(f.title)}<br /><span class="soft">${words.text(PLAIN[f.kind])}</span></td>
            <td>${words.saving(f.addedMs, f.addedRange)}</td>
            <td class="n">${words.text('about {n} min', { n: f.effort })}</td>
            <td>${words.text(WHO[f.hands])}</td>
          </tr>`,
      )}
    </table>
    ${
      fixes.length > MOST_FIXES &&
      html`<p class="soft">
        ${words.text('{n} more save less; the report for fixers has them.', { n: fixes.length - MOST_FIXES })}
      </p>`
    }`;
}

function safety(facts: ReportFacts, names: PageNames, words: Words) {
  const causes = merged(facts.safety.map(({ finding, pages }) => ({ plain: finding.plain, pages })));
  const more = causes.length - MOST_SAFETY;
  return html`<h2>${words.text('Is it safe?')}</h2>
    ${
      causes.length === 0
        ? html`<p>
            ${words.text(
              'Nothing was found that browsers refuse, warn of, or that others on the way could read or change.',
            )}
          </p>`
        : html`<ul>
              ${causes.slice(0, MOST_SAFETY).map((c) => html`<li>${plainCause(c, names, words)}</li>`)}
            </ul>
            ${more > 0 && html`<p class="soft">${more === 1 ? words.text('1 more of this kind is in the auditor’s report.') : words.text('{n} more of this kind are in the auditor’s report.', { n: more })}</p>`}`
    }`;
}

/** Short titles of the pages by address. */
function namesOf({ pages }: ReportFacts): PageNames {
  const titles = shortTitles(pages.map((p) => p.title || pathOf(p.page)));
  return new Map(pages.map((p, i) => [p.page, titles[i] ?? p.page]));
}
