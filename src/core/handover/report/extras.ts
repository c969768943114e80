import type { FieldRow } from '../../field/fieldData';
import { pathOf } from '../../capture/url';
import { dataAddress, html, type Html } from './html';
import type { LanguageFile, Words } from './words';

/** How the reports of a site look: whose they are. */
export interface ReportLook {
  /** Name of the firm that hands them over. */
  readonly firm: string;
  /** `#rrggbb`, for the line under its name; empty for the usual one. */
  readonly colour: string;
  /** Text before everything else; a blank line parts paragraphs. */
  readonly foreword: string;
  /** PNG as base64; empty for none. */
  readonly logo: string;
  /** Tag of the language; English if not stated. */
  readonly language?: string;
}

/** A cause in plain words, and the pages that have or had it. */
export interface PlainCause {
  readonly plain: string;
  readonly pages: readonly string[];
}

/** What became of a site since the sweep before, for the visitor of the report. */
export interface SinceLast {
  readonly day: string;
  /** Average hero paint of the pages that both sweeps recorded, ms. */
  readonly thenMs: number;
  readonly nowMs: number;
  readonly pages: number;
  /** Causes, without those that nobody notices. */
  readonly gone: readonly PlainCause[];
  readonly appeared: readonly PlainCause[];
  readonly cameBack: readonly PlainCause[];
  /** Fixes that are said to be done, and what became of each in words. */
  readonly promises: readonly { readonly title: string; readonly became: string; readonly kept: boolean }[];
}

/** Pictures of one page coming up in a real browser, without and with fixes. */
export interface ReportFilm {
  readonly title: string;
  readonly visitor: string;
  readonly fixes: number;
  readonly moments: readonly { readonly atMs: number; readonly before?: Uint8Array; readonly after?: Uint8Array }[];
}

/** What a report says beside what the sweep itself holds. */
export interface ReportExtras {
  readonly look?: ReportLook;
  readonly since?: SinceLast;
  readonly film?: ReportFilm;
  /** What the report is written in; English if not stated. */
  readonly language?: LanguageFile;
  /** What real visits came to, by address of the page. */
  readonly field?: Readonly<Record<string, FieldRow>>;
}

/** Causes of one kind that are named; the rest is counted. */
const MOST_NAMED = 5;

/** Below this a change of an average is within what two recordings differ by: 40 ms and 3 %. */
const isChange = (then: number, now: number) => Math.abs(now - then) >= Math.max(40, 0.03 * then);

/** The firm's name and logo, and its foreword. */
export function letterhead(look: ReportLook | undefined): Html {
  if (!look || (!look.firm && !look.logo && !look.foreword)) return html``;
  const paragraphs = look.foreword.split(/\n\s*\n/).filter((p) => p.trim() !== '');
  return html`${
    (look.firm !== '' || look.logo !== '') &&
    html`<header class="firm">
      ${look.logo !== '' && html`<img src="data:image/png;base64,${look.logo}" alt="" />`}<span>${look.firm}</span>
    </header>`
  }${paragraphs.map((p) => html`<p class="foreword">${p.trim()}</p>`)}`;
}

/** Rules for the firm's colour; a colour that is none is left out. */
export const lookStyle = (look: ReportLook | undefined): string =>
  look && /^#[0-9a-f]{6}$/i.test(look.colour) ? `header.firm{border-bottom-color:${look.colour}}` : '';

/** What got better since the last time, and whether promises were kept. */
export function sinceLast(since: SinceLast | undefined, names: PageNames, words: Words): Html {
  if (!since) return html``;
  const { thenMs, nowMs } = since;
  const pages =
    since.pages === 1
      ? words.text('the page that was examined both times')
      : words.text('the {n} pages that were examined both times', { n: since.pages });
  const now = html`<span class="${nowMs < thenMs ? 'after' : 'now'}">${words.time(nowMs)}</span>`;
  return html`<h2>${words.text('Since {day}', { day: words.day(since.day) })}</h2>
    ${
      since.pages > 0 &&
      html`<p>
        ${
          isChange(thenMs, nowMs)
            ? words.html('The main part of {pages} is visible after {now}; it was {then} ({change}).', {
                pages,
                now,
                then: words.time(thenMs),
                change: words.effect(nowMs - thenMs),
              })
            : words.text('The main part of {pages} is visible after {time}, as before.', {
                pages,
                time: words.time(nowMs),
              })
        }
      </p>`
    }
    <ul>
      ${named('Repaired', since.gone, names, words)} ${named('New', since.appeared, names, words)}
      ${named('Came back', since.cameBack, names, words)}
    </ul>
    ${
      since.promises.length > 0 &&
      html`<p>${promisesSentence(since, words)}</p>
        <table>
          <tr>
            <th>${words.text('Said to be done')}</th>
            <th>${words.text('What became of it')}</th>
          </tr>
          ${since.promises.map(
            (p) =>
              html`<tr>
                <td>${words.phrase(p.title)}</td>
                <td class="${p.kept ? 'after' : 'now'}">${words.text(p.became)}</td>
              </tr>`,
          )}
        </table>`
    }`;
}

function named(what: string, causes: readonly PlainCause[], names: PageNames, words: Words): Html {
  const name = words.text(what);
  if (causes.length === 0) return html`<li>${words.text('{name}: nothing', { name })}</li>`;
  const all = merged(causes);
  const more = all.length - MOST_NAMED;
  return html`<li>
    ${name}:
    <ul>
      ${all.slice(0, MOST_NAMED).map((c) => html`<li>${plainCause(c, names, words)}</li>`)}
      ${more > 0 && html`<li>${words.text('and {n} more', { n: more })}</li>`}
    </ul>
  </li>`;
}

/** Names of pages by address. */
export type PageNames = ReadonlyMap<string, string>;

/** Causes that read alike as one, with the pages of all. */
export function merged(causes: readonly PlainCause[]): PlainCause[] {
  const out = new Map<string, Set<string>>();
  for (const { plain, pages } of causes) out.set(plain, new Set([...(out.get(plain) ?? []), ...pages]));
  return [...out].map(([plain, pages]) => ({ plain, pages: [...pages] }));
}

/** A cause with its pages: named where they are one or two, else counted. */
export function plainCause({ plain, pages }: PlainCause, names: PageNames, words: Words): Html {
  const [first, second, ...rest] = pages.map((p) => names.get(p) ?? pathOf(p));
  const where =
    rest.length > 0
      ? words.text('on {n} pages', { n: pages.length })
      : second !== undefined
        ? words.text('on {page} and {other}', { page: first ?? '', other: second })
        : words.text('on {page}', { page: first ?? '' });
  return html`${words.phrase(plain)} <span class="soft">(${where})</span>`;
}

function promisesSentence({ promises }: SinceLast, words: Words): string {
  const kept = promises.filter((p) => p.kept).length;
  const n = promises.length;
  if (kept === n)
    return n === 1
      ? words.text('The one fix that was said to be done is.')
      : words.text('All {n} fixes that were said to be done are.', { n });
  if (n === 1) return words.text('The one fix that was said to be done is not.');
  if (kept === 0) return words.text('Of {n} fixes that were said to be done, none is.', { n });
  return kept === 1
    ? words.text('Of {n} fixes that were said to be done, one is.', { n })
    : words.text('Of {n} fixes that were said to be done, {n2} are.', { n, n2: kept });
}

/** One page coming up, without and with the fixes, moment by moment. */
export function filmStrip(film: ReportFilm | undefined, words: Words): Html {
  if (!film || film.moments.length === 0) return html``;
  const row = (name: string, side: 'before' | 'after') =>
    html`<tr>
      <th scope="row">${name}</th>
      ${film.moments.map(
        (m) =>
          html`<td>
            ${
              m[side]
                ? html`<img
                    src="${dataAddress(m[side])}"
                    alt="${words.text('{name}, after {time}', { name, time: words.time(m.atMs) })}"
                  />`
                : html`<span class="soft">${words.text('nothing yet')}</span>`
            }
          </td>`,
      )}
    </tr>`;
  return html`<h2>${words.text('How {title} comes up', { title: film.title })}</h2>
    <table class="film">
      <caption>
        ${words.text('Taken in a real browser, for: {visitor}.', { visitor: words.orOwn(film.visitor) })}
        ${
          film.fixes === 1
            ? words.text('Below with one fix of this report.')
            : words.text('Below with {n} fixes of this report.', { n: film.fixes })
        }
      </caption>
      <tr>
        <th></th>
        ${film.moments.map((m) => html`<th scope="col">${words.time(m.atMs)}</th>`)}
      </tr>
      ${row(words.text('Now'), 'before')} ${row(words.text('With the fixes'), 'after')}
    </table>`;
}

/** What real visits to a page came to, beneath its name; nothing where that is not known. */
export function realVisits(row: FieldRow | undefined, how: 'plainly' | 'figures', words: Words): Html {
  const { lcpMs, fcpMs } = row?.p75 ?? {};
  if (!row || lcpMs === undefined) return html``;
  const of = [
    row.of === 'page' ? words.text('to this page') : words.text('to the whole origin'),
    words.text(row.device === 'all' ? 'all devices' : row.device),
    row.month && words.month(row.month),
    row.visits !== undefined &&
      (row.visits === 1 ? words.text('1 visit') : words.text('{n} visits', { n: row.visits })),
  ]
    .filter(Boolean)
    .join(', ');
  const time = words.time(lcpMs);
  const text =
    how === 'plainly'
      ? words.text('Three of four real visits had the main part within {time} ({of}).', { time, of })
      : fcpMs === undefined
        ? words.text('Real visits {of}, p75: LCP {time}.', { of, time })
        : words.text('Real visits {of}, p75: FCP {time2}, LCP {time}.', { of, time, time2: words.time(fcpMs) });
  return html`<br /><span class="soft">${text}</span>`;
}
