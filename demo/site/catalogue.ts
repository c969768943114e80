import { MEDIA, WWW } from './hosts';
import { page, prose } from './pages';

/** A fault put into the enlarged site on purpose, with the line on which it stands. */
export interface Planted {
  readonly kind: 'mention' | 'redirected-link' | 'missing-link' | 'http-canonical' | 'orphan' | 'dead-end' | 'refresh';
  /** Address of the page it stands on. */
  readonly page: string;
  /** Line of source, from 1; 0 where the whole page is meant. */
  readonly line: number;
  /** Address that it names. */
  readonly target: string;
}

/** What the enlarged site answers. */
export interface CataloguePage {
  readonly status: number;
  readonly type: string;
  readonly body: string;
  readonly location?: string;
}

interface Built {
  readonly html: string;
  readonly planted: readonly Planted[];
}

/**
 * The garden's plant catalogue: as many pages as wanted, of several templates, with planted faults at known
 * lines. Everything follows from the number of pages, so that a sweep can be compared with it.
 */
export class Catalogue {
  readonly families: number;
  readonly species: number;
  readonly beds: number;
  readonly notes: number;
  readonly orphans: number;
  readonly leaflets: number;
  readonly halls: number;
  private readonly cache = new Map<string, CataloguePage | undefined>();

  /** `pages`: pages that answer 200, those of pages.ts on the main host left out; at least 60. */
  constructor(readonly pages: number) {
    if (pages < 60) throw new RangeError('the catalogue has at least 60 pages');
    this.orphans = Math.max(3, Math.round(pages / 500));
    this.leaflets = Math.max(3, Math.round(pages / 250));
    this.halls = Math.max(2, Math.round(pages / 500));
    this.beds = Math.round(pages / 10);
    this.notes = Math.round(pages / 10);
    const rest = pages - this.orphans - this.leaflets - this.halls - this.beds - this.notes - 3;
    this.families = Math.max(2, Math.round(Math.sqrt(rest)));
    this.species = rest - this.families;
  }

  /** The answer to a path of the main host; undefined for what is no part of the catalogue. */
  answer(path: string): CataloguePage | undefined {
    if (!this.cache.has(path)) this.cache.set(path, this.make(path));
    return this.cache.get(path);
  }

  /** Addresses that the sitemaps name. */
  sitemapPages(): string[] {
    return this.paths().map((p) => WWW + p);
  }

  /** Every planted fault. */
  planted(): Planted[] {
    return this.paths().flatMap((p) => this.build(p)?.planted ?? []);
  }

  /** Every path that answers with a page. */
  paths(): string[] {
    const out = ['/plants/', '/beds/', '/notes/'];
    for (let f = 0; f < this.families; f++) out.push(this.familyPath(f));
    for (let s = 0; s < this.species; s++) out.push(this.speciesPath(s));
    for (let b = 0; b < this.beds; b++) out.push(`/beds/bed-${b + 1}/`);
    for (let n = 0; n < this.notes; n++) out.push(this.notePath(n));
    for (let o = 0; o < this.orphans; o++) out.push(`/forgotten/${name(o + 7)}-${o + 1}/`);
    for (let l = 0; l < this.leaflets; l++) out.push(`/leaflets/leaflet-${l + 1}/`);
    for (let h = 0; h < this.halls; h++) out.push(`/halls/hall-${h + 1}/`);
    return out;
  }

  private make(path: string): CataloguePage | undefined {
    const moved = /^\/(moved|moved-twice)\/(\d+)\/$/.exec(path);
    if (moved && Number(moved[2]) < this.species) {
      const twice = moved[1] === 'moved-twice';
      const location = WWW + (twice ? `/moved/${moved[2]}/` : this.speciesPath(Number(moved[2])));
      return { status: twice ? 302 : 301, type: 'text/plain', body: '', location };
    }
    const html = this.build(path)?.html;
    return html === undefined ? undefined : { status: 200, type: 'text/html; charset=utf-8', body: html };
  }

  private build(path: string): Built | undefined {
    const parts = path.split('/').filter(Boolean);
    const [first, second, third] = parts;
    const number = Number(/-(\d+)$/.exec(parts.at(-1) ?? '')?.[1]) - 1;
    let made: Built | undefined;
    if (first === 'plants' && !second) made = this.index(path, 'Plants', this.families, (i) => this.familyPath(i));
    else if (path === '/beds/') made = this.index(path, 'Beds', this.beds, (i) => `/beds/bed-${i + 1}/`);
    else if (path === '/notes/') made = this.index(path, 'Notes', this.notes, (i) => this.notePath(i));
    else if (first === 'plants' && second && !third) made = this.family(path, number);
    else if (first === 'plants') made = this.plant(path, number);
    else if (first === 'beds') made = this.bed(path, number);
    else if (first === 'notes') made = this.note(path, number);
    else if (first === 'forgotten') made = this.simple(path, number, this.orphans, 'orphan');
    else if (first === 'leaflets') made = this.leaflet(path, number);
    else if (first === 'halls') made = this.hall(path, number);
    return made && this.owns(path, first, number) ? made : undefined;
  }

  /** A path with a right number but a wrong name is not a page. */
  private owns(path: string, first: string | undefined, number: number): boolean {
    if (/^\/(plants|beds|notes)\/$/.test(path)) return true;
    if (!(number >= 0)) return false;
    if (first === 'plants') return path === this.familyPath(number) || path === this.speciesPath(number);
    if (first === 'beds') return number < this.beds && path === `/beds/bed-${number + 1}/`;
    if (first === 'notes') return number < this.notes && path === this.notePath(number);
    return true;
  }

  private familyPath(f: number): string {
    return f < this.families ? `/plants/${name(f)}-${f + 1}/` : '';
  }

  private speciesPath(s: number): string {
    if (s >= this.species) return '';
    return `/plants/${name(this.familyOf(s))}-${this.familyOf(s) + 1}/${name(s + 31)}-${s + 1}/`;
  }

  private notePath(n: number): string {
    return `/notes/${2014 + (n % 12)}/${name(n + 3)}-${n + 1}/`;
  }

  private familyOf(s: number): number {
    return s % this.families;
  }

  private index(path: string, title: string, count: number, to: (i: number) => string): Built {
    const links = Array.from({ length: count }, (_, i) => `      <li><a href="${to(i)}">${title} ${i + 1}</a></li>`);
    const more =
      path === '/plants/'
        ? `    <p><a href="/beds/">The beds</a> <a href="/notes/">Gardeners' notes</a> <a href="/private/keys/">Staff</a></p>\n`
        : '';
    return built(
      path,
      title,
      `    <h1>${title}</h1>\n${prose(0, 1)}\n${more}    <ul class="index">\n${links.join('\n')}\n    </ul>`,
    );
  }

  private family(path: string, f: number): Built | undefined {
    if (!(f >= 0 && f < this.families)) return undefined;
    const own: number[] = [];
    for (let s = f; s < this.species; s += this.families) own.push(s);
    const cards = own.map(
      (s) =>
        `      <div class="card"><img src="${MEDIA}/p/leaf-${(s % 8) + 1}.jpg" alt="" loading="lazy" width="210" height="150"><a href="${this.speciesPath(s)}">${title(s + 31)}</a></div>`,
    );
    return built(
      path,
      `${title(f)} family`,
      `    <h1>${title(f)}</h1>\n${prose(f, 2)}\n    <div class="grid cards">\n${cards.join('\n')}\n    </div>`,
    );
  }

  private plant(path: string, s: number): Built | undefined {
    if (!(s >= 0 && s < this.species)) return undefined;
    const self = WWW + path;
    const faults: { kind: Planted['kind']; markup: string; target: string }[] = [];
    const other = (n: number) => (s * 7 + n * 13 + 1) % this.species;
    const at = (every: number, from: number) => s % every === from;
    if (at(97, 5)) {
      const target = `http://www.fernhollow.example${this.speciesPath(other(1))}`;
      faults.push({ kind: 'mention', markup: `<a href="${target}">Compare</a>`, target });
    }
    if (at(193, 8)) {
      const target = `http://media.fernhollow.example/p/leaf-${(s % 8) + 1}.jpg`;
      faults.push({ kind: 'mention', markup: `<img src="${target}" alt="Leaf">`, target });
    }
    if (at(89, 2)) {
      const target = `/moved/${other(2)}/`;
      faults.push({ kind: 'redirected-link', markup: `<a href="${target}">Moved</a>`, target: WWW + target });
    }
    if (at(211, 4)) {
      const target = `/moved-twice/${other(3)}/`;
      faults.push({ kind: 'redirected-link', markup: `<a href="${target}">Moved twice</a>`, target: WWW + target });
    }
    if (at(101, 3)) {
      const target = `/plants/lost-${s + 1}/`;
      faults.push({ kind: 'missing-link', markup: `<a href="${target}">Lost</a>`, target: WWW + target });
    }
    const canonical = at(113, 7) ? `http://www.fernhollow.example${path}` : undefined;
    const related = Array.from(
      { length: 8 },
      (_, n) => `      <li><a href="${this.speciesPath(other(n + 4))}">${title(other(n + 4) + 31)}</a></li>`,
    );
    const facts = ['Height', 'Spread', 'Soil', 'Light', 'Flowers', 'Hardiness'].map(
      (what, n) => `      <tr><th>${what}</th><td>${title(s + n)} ${((s + n) % 9) + 1}</td></tr>`,
    );
    const main = [
      `    <p class="crumbs"><a href="/plants/">Plants</a> / <a href="${this.familyPath(this.familyOf(s))}">${title(this.familyOf(s))}</a></p>`,
      `    <h1>${title(s + 31)}</h1>`,
      `    <figure class="portrait"><img src="${MEDIA}/p/orchid-${(s % 14) + 1}.jpg" alt="${title(s + 31)}"></figure>`,
      prose(s, 3),
      `    <table class="facts">\n${facts.join('\n')}\n    </table>`,
      ...faults.map((f) => `    <p>${f.markup}</p>`),
      `    <h2>Grows well with</h2>\n    <ul class="related">\n${related.join('\n')}\n    </ul>`,
      prose(s + 2, 2),
    ];
    const { html } = built(path, title(s + 31), main.join('\n'), canonical);
    const planted = faults.map((f): Planted => ({
      kind: f.kind,
      page: self,
      line: lineOf(html, f.markup),
      target: f.target,
    }));
    if (canonical)
      planted.push({ kind: 'http-canonical', page: self, line: lineOf(html, 'rel="canonical"'), target: canonical });
    return { html, planted };
  }

  private bed(path: string, b: number): Built | undefined {
    if (!(b >= 0)) return undefined;
    const links = Array.from({ length: 10 }, (_, n) => {
      const s = (b * 10 + n) % this.species;
      return `      <tr><td>${n + 1}</td><td><a href="${this.speciesPath(s)}">${title(s + 31)}</a></td></tr>`;
    });
    const leaflet = b < this.leaflets ? `\n    <p><a href="/leaflets/leaflet-${b + 1}/">Leaflet</a></p>` : '';
    const hall = b < this.halls ? `\n    <p><a href="/halls/hall-${b + 1}/">The hall</a></p>` : '';
    return built(
      path,
      `Bed ${b + 1}`,
      `    <h1>Bed ${b + 1}</h1>\n${prose(b, 1)}\n    <table class="planting">\n${links.join('\n')}\n    </table>${leaflet}${hall}`,
    );
  }

  private note(path: string, n: number): Built | undefined {
    if (!(n >= 0)) return undefined;
    return built(
      path,
      `Note ${n + 1}`,
      `    <article class="note-page"><h1>${title(n + 3)}</h1><time>${2014 + (n % 12)}</time>\n${prose(n, 5)}\n    <p><a href="${this.speciesPath(n % this.species)}">The plant of this note</a></p></article>`,
    );
  }

  private simple(path: string, i: number, count: number, kind: 'orphan'): Built | undefined {
    if (!(i >= 0 && i < count) || path !== `/forgotten/${name(i + 7)}-${i + 1}/`) return undefined;
    const { html } = built(path, `Forgotten ${i + 1}`, `    <h1>Forgotten ${i + 1}</h1>\n${prose(i, 2)}`);
    return { html, planted: [{ kind, page: WWW + path, line: 0, target: WWW + path }] };
  }

  /** A page with no link on it at all. */
  private leaflet(path: string, i: number): Built | undefined {
    if (!(i >= 0 && i < this.leaflets) || path !== `/leaflets/leaflet-${i + 1}/`) return undefined;
    const html = `<!doctype html>\n<html lang="en">\n<head>\n  <meta charset="utf-8">\n  <title>Leaflet ${i + 1}</title>\n</head>\n<body class="leaflet">\n${prose(i, 3)}\n</body>\n</html>\n`;
    return { html, planted: [{ kind: 'dead-end', page: WWW + path, line: 0, target: WWW + path }] };
  }

  /** A page that sends its visitors on by a meta refresh. */
  private hall(path: string, i: number): Built | undefined {
    if (!(i >= 0 && i < this.halls) || path !== `/halls/hall-${i + 1}/`) return undefined;
    const target = this.speciesPath(i);
    const html = `<!doctype html>\n<html lang="en">\n<head>\n  <meta charset="utf-8">\n  <meta http-equiv="refresh" content="0; url=${target}">\n  <title>Hall ${i + 1}</title>\n</head>\n<body><p><a href="${target}">On to the plant</a></p></body>\n</html>\n`;
    return { html, planted: [{ kind: 'refresh', page: WWW + path, line: 5, target: WWW + target }] };
  }
}

function built(path: string, heading: string, main: string, canonical?: string): Built {
  return { html: page({ path, title: heading, main, canonical }).html, planted: [] };
}

const lineOf = (html: string, text: string) => html.slice(0, html.indexOf(text)).split('\n').length;

const SYLLABLES = 'fer nis lo ram vel tor mi qua sel dra pen wil ash bri cor dun'.split(' ');

/** A made-up name for a number. */
function name(n: number): string {
  const pick = (k: number) => SYLLABLES[k % SYLLABLES.length] as string;
  return pick(n * 5 + 3) + pick(Math.floor(n / 3) * 7 + 1) + pick(Math.floor(n / 48) + n);
}

const title = (n: number) => name(n).replace(/^./, (c) => c.toUpperCase());
