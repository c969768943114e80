import { InputError } from '../../capture/errors';
import { resolveUrl } from '../../capture/url';
import { looksLikeAddress } from '../urlList';
import { dateOrder, numberForm, readDate, readNumber } from './cells';
import type { RawTable } from './table';

/** What a column of an outside list may mean. */
export const ROLES = ['address', 'clicks', 'impressions', 'position', 'date', 'title', 'state', 'source'] as const;
export type Role = (typeof ROLES)[number];

/** What kind of list it is, told from its columns. */
export type ListKind = 'search performance' | 'index state' | 'inbound links' | 'sitemap' | 'addresses' | 'days';

/** One row of a list that could be read. */
export interface ListedAddress {
  /** Absolute; empty in a list of days. */
  readonly address: string;
  readonly clicks?: number;
  readonly impressions?: number;
  readonly position?: number;
  /** YYYY-MM-DD. */
  readonly date?: string;
  readonly title?: string;
  readonly state?: string;
  readonly source?: string;
}

/** A list of addresses from elsewhere. */
export interface OutsideList {
  readonly kind: ListKind;
  readonly columns: readonly string[];
  /** The column of each role that was found. */
  readonly roles: Readonly<Partial<Record<Role, number>>>;
  readonly rows: readonly ListedAddress[];
  /** Rows whose address cannot be read, the first few as they stand. */
  readonly unread: { readonly count: number; readonly examples: readonly string[] };
}

/** Headings by which a column is known, in the languages in which such tables come. */
const HEADINGS: Readonly<Record<Role, RegExp>> = {
  address:
    /^(top |popular |häufigste |beliebteste )?(url|urls|address|adress[e]?|page|pages|seite|seiten|página|páginas|pagina|pagine|target( url| page)?|ziel(seite|-url)?|zielseite|landing ?page|page url|link|loc|final url|destination)s?$/i,
  clicks: /^(clicks?|klicks?|clics?|clic|kliks?|visits?|sessions?)( \(.*\))?$/i,
  impressions: /^(impressions?|impressionen|impresiones|impressioni|vertoningen|impress(ões|ies))( \(.*\))?$/i,
  position:
    /^((avg\.?|average|durchschnittliche|mittlere) )?(position|posición|posizione|positie|rank)( moyenne| media)?$/i,
  date: /^(date|datum|day|tag|fecha|data|jour|dag)$/i,
  title: /^(title|titel|titre|título|titolo|page title)$/i,
  state: /^(state|status|reason|grund|coverage|index(ing| state)?|indexed|last crawl status|estado|état|stato)$/i,
  source: /^(source( url| page)?|from|referring page( url)?|linking page|linked from|quelle|verlinkende seite)$/i,
};

/**
 * Reads the table of a file that holds most addresses.
 * @param chosen names or numbers (from 1) of columns for roles that were told by hand
 * @throws InputError when no table has an address or a day in it, or a chosen column is not there
 */
export function readOutsideList(
  tables: readonly RawTable[],
  site: string,
  chosen: Readonly<Partial<Record<Role, string>>> = {},
): OutsideList {
  const read = tables.map((t) => readOne(t, site, chosen));
  const best = read
    .filter((l) => l !== undefined)
    .sort((a, b) => (a.kind === 'days' ? 1 : 0) - (b.kind === 'days' ? 1 : 0) || b.rows.length - a.rows.length)[0];
  if (!best || best.rows.length === 0)
    throw new InputError(
      'The list has no address in it that can be read.',
      'list',
      'Give a file with one address a line, or a table with a column of addresses; name the column if it is not found.',
    );
  return best;
}

/** Every table of days among those of a file: a search export often has one beside the pages. */
export function readDays(tables: readonly RawTable[], site: string): ListedAddress[] {
  return tables.flatMap((t) => {
    const list = readOne(t, site, {});
    return list?.kind === 'days' ? list.rows : [];
  });
}

function readOne(
  table: RawTable,
  site: string,
  chosen: Readonly<Partial<Record<Role, string>>>,
): OutsideList | undefined {
  const { rows } = table;
  const first = rows.findIndex((r) => r.some((c) => looksLikeAddress(c)) || (r.length > 1 && isDay(r[0] ?? '')));
  if (first < 0) return undefined;
  const body = rows.slice(first);
  const width = body.slice(0, 200).reduce((w, r) => Math.max(w, r.length), 0);
  const heading = first > 0 && rows[first - 1]?.length === width ? rows[first - 1] : undefined;
  const columns = Array.from(
    { length: width },
    (_, i) => heading?.[i]?.trim() || (width === 1 ? 'address' : `column ${i + 1}`),
  );
  const roles = rolesOf(columns, heading !== undefined, body, chosen);
  const cells = (role: Role) => {
    const at = roles[role];
    return at === undefined ? [] : body.map((r) => r[at] ?? '');
  };
  const forms = {
    clicks: numberForm(cells('clicks'), true),
    impressions: numberForm(cells('impressions'), true),
    position: numberForm(cells('position'), false),
  };
  const order = dateOrder(cells('date'));
  const out: ListedAddress[] = [];
  const examples: string[] = [];
  let count = 0;
  for (const row of body) {
    const cell = (role: Role) => {
      const at = roles[role];
      return at === undefined ? undefined : row[at]?.trim() || undefined;
    };
    const number = (role: 'clicks' | 'impressions' | 'position') => {
      const text = cell(role);
      return text === undefined ? undefined : readNumber(text, forms[role]);
    };
    const date = cell('date');
    const address = roles.address === undefined ? '' : addressOf(cell('address') ?? '', site);
    const day = date === undefined ? undefined : readDate(date, order);
    if (address === undefined || (roles.address === undefined && day === undefined)) {
      count++;
      if (examples.length < 5) examples.push(row.join(' | ').slice(0, 200));
      continue;
    }
    out.push({
      address,
      clicks: number('clicks'),
      impressions: number('impressions'),
      position: number('position'),
      date: day,
      title: cell('title'),
      state: cell('state'),
      source: cell('source'),
    });
  }
  return { kind: kindOf(roles), columns, roles, rows: out, unread: { count, examples } };
}

function kindOf(roles: OutsideList['roles']): ListKind {
  if (roles.address === undefined) return 'days';
  if (roles.clicks !== undefined || roles.impressions !== undefined) return 'search performance';
  if (roles.source !== undefined) return 'inbound links';
  if (roles.state !== undefined) return 'index state';
  return 'addresses';
}

function rolesOf(
  columns: readonly string[],
  named: boolean,
  body: readonly (readonly string[])[],
  chosen: Readonly<Partial<Record<Role, string>>>,
): Partial<Record<Role, number>> {
  const out: Partial<Record<Role, number>> = {};
  for (const role of ROLES) {
    const name = chosen[role];
    if (name === undefined) continue;
    const at = columns.findIndex((c) => c.toLowerCase() === name.trim().toLowerCase());
    const index = at >= 0 ? at : /^\d+$/.test(name) ? Number(name) - 1 : -1;
    if (index < 0 || index >= columns.length)
      throw new InputError(`The list has no column "${name}".`, 'column', `It has: ${columns.join(', ')}.`);
    out[role] = index;
  }
  const sample = body.slice(0, 200);
  const share = (i: number, test: (cell: string) => boolean) =>
    sample.filter((r) => test(r[i] ?? '')).length / sample.length;
  const free = (i: number) => !Object.values(out).includes(i);
  if (out.address === undefined) {
    const withAddresses = columns.map((_, i) => i).filter((i) => free(i) && share(i, looksLikeAddress) >= 0.5);
    const source = named ? withAddresses.find((i) => HEADINGS.source.test(columns[i] ?? '')) : undefined;
    const best =
      withAddresses.find((i) => named && HEADINGS.address.test(columns[i] ?? '')) ??
      withAddresses.find((i) => i !== source);
    if (best !== undefined) out.address = best;
  }
  for (const role of ROLES) {
    if (role === 'address' || out[role] !== undefined || !named) continue;
    const at = columns.findIndex((c, i) => free(i) && HEADINGS[role].test(c));
    if (at >= 0) out[role] = at;
  }
  if (out.date === undefined) {
    const at = columns.findIndex((_, i) => free(i) && share(i, isDay) >= 0.8);
    if (at >= 0) out.date = at;
  }
  return out;
}

const isDay = (cell: string) => readDate(cell, 'dmy') !== undefined || readDate(cell, 'mdy') !== undefined;

/** An address as listed, made absolute; undefined for what is none. */
function addressOf(text: string, site: string): string | undefined {
  const cell = text.trim();
  if (!looksLikeAddress(cell)) return undefined;
  const noScheme = /^[a-z0-9-]+(\.[a-z0-9-]+)+([/?:]|$)/i.test(cell) && !/^https?:/i.test(cell);
  const url = resolveUrl(noScheme ? `https://${cell}` : cell, site);
  return url !== undefined && /^https?:/.test(url) ? url : undefined;
}
