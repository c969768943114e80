import type { FieldRow } from '../../field/fieldData';
import { effectText, timeText } from '../effectText';
import { dataAddress, html, type Html } from './html';

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
}

/** What became of a site since the sweep before, for the visitor of the report. */
export interface SinceLast {
  readonly day: string;
  /** Average hero paint of the pages that both sweeps recorded, ms. */
  readonly thenMs: number;
  readonly nowMs: number;
  readonly pages: number;
  /** Titles of causes, without those that nobody notices. */
  readonly gone: readonly string[];
  readonly appeared: readonly string[];
  readonly cameBack: readonly string[];
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
export function sinceLast(since: SinceLast | undefined): Html {
  if (!since) return html``;
  const { thenMs, nowMs } = since;
  const pages = since.pages === 1 ? 'the page that was' : `the ${since.pages} pages that were`;
  return html`<h2>Since ${since.day}</h2>
    ${
      since.pages > 0 &&
      html`<p>
        ${
          isChange(thenMs, nowMs)
            ? html`The main part of ${pages} examined both times is visible after
                <span class="${nowMs < thenMs ? 'after' : 'now'}">${timeText(nowMs)}</span>; it was ${timeText(thenMs)}
                (${effectText(nowMs - thenMs)}).`
            : html`The main part of ${pages} examined both times is visible after ${timeText(nowMs)}, as before.`
        }
      </p>`
    }
    <ul>
      ${named('Repaired', since.gone)} ${named('New', since.appeared)} ${named('Came back', since.cameBack)}
    </ul>
    ${
      since.promises.length > 0 &&
      html`<p>${promisesSentence(since)}</p>
        <table>
          <tr>
            <th>Said to be done</th>
            <th>What became of it</th>
          </tr>
          ${since.promises.map(
            (p) =>
              html`<tr>
                <td>${p.title}</td>
                <td class="${p.kept ? 'after' : 'now'}">${p.became}</td>
              </tr>`,
          )}
        </table>`
    }`;
}

function named(what: string, titles: readonly string[]): Html {
  if (titles.length === 0) return html`<li>${what}: nothing</li>`;
  const more = titles.length - MOST_NAMED;
  return html`<li>${what}: ${titles.slice(0, MOST_NAMED).join('; ')}${more > 0 && ` and ${more} more`}</li>`;
}

function promisesSentence({ promises }: SinceLast): string {
  const kept = promises.filter((p) => p.kept).length;
  if (kept === promises.length)
    return kept === 1 ? 'The one fix that was said to be done is.' : `All ${kept} fixes that were said to be done are.`;
  return `Of ${promises.length === 1 ? 'one fix' : `${promises.length} fixes`} that ${promises.length === 1 ? 'was' : 'were'} said to be done, ${kept === 0 ? 'none is' : kept === 1 ? 'one is' : `${kept} are`}.`;
}

/** One page coming up, without and with the fixes, moment by moment. */
export function filmStrip(film: ReportFilm | undefined): Html {
  if (!film || film.moments.length === 0) return html``;
  const row = (name: string, side: 'before' | 'after') =>
    html`<tr>
      <th scope="row">${name}</th>
      ${film.moments.map(
        (m) =>
          html`<td>
            ${
              m[side]
                ? html`<img src="${dataAddress(m[side])}" alt="${name}, after ${timeText(m.atMs)}" />`
                : html`<span class="soft">nothing yet</span>`
            }
          </td>`,
      )}
    </tr>`;
  return html`<h2>How ${film.title} comes up</h2>
    <table class="film">
      <caption>
        Taken in a real browser, for: ${film.visitor}. Below with
        ${film.fixes === 1 ? 'one fix' : `${film.fixes} fixes`} of this report.
      </caption>
      <tr>
        <th></th>
        ${film.moments.map((m) => html`<th scope="col">${timeText(m.atMs)}</th>`)}
      </tr>
      ${row('Now', 'before')} ${row('With the fixes', 'after')}
    </table>`;
}

/** What real visits to a page came to, beneath its name; nothing where that is not known. */
export function realVisits(row: FieldRow | undefined, words: (row: FieldRow) => string | undefined): Html {
  const text = row && words(row);
  return text ? html`<br /><span class="soft">${text}</span>` : html``;
}
