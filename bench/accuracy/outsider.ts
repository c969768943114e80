/**
 * Pages that nobody here wrote: documents of published packages (`bench/accuracy/outsiders/package.json`), served as
 * their authors ship them. Their texts become made-up words of the same length, and what they fetch from real hosts
 * comes from made-up ones: photographs, fonts and scripts made here. Markup, styles, scripts and pictures of the
 * package stay as they are.
 */
import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parse, type DefaultTreeAdapterMap } from 'parse5';
import { busy, css, font, js, photo, seeded, words, WWW } from './parts';
import type { FileSpec, Files, HostSpec } from './site';

const folder = path.join(path.dirname(fileURLToPath(import.meta.url)), 'outsiders');

/** Where a document of a package stands, and how its files are sent. */
export interface OutsiderSpec {
  readonly package: string;
  /** The folder of the package that is the root of its site. */
  readonly root?: string;
  /** The document, from that root. */
  readonly document: string;
  /** Top folders and files of the root that belong to the page. */
  readonly parts: readonly string[];
  /** Scripts of the package, from that root, that the document asks another host for. */
  readonly elsewhere?: readonly string[];
  /** Text is sent compressed; true by default. */
  readonly gzip?: boolean;
  /** Think time of the document, ms. */
  readonly waitMs?: number;
}

export const TYPE = 'https://type.letterpress.example';
export const PHOTOS = 'https://photos.hedgerow.example';
export const WIDGETS = 'https://widgets.petalmetrics.example';

/** The own host, and those of others that an outsider's page may ask. */
export function outsiderHosts(own: Omit<HostSpec, 'name'>, others: Omit<HostSpec, 'name'>): HostSpec[] {
  return [
    { name: new URL(WWW).hostname, ...own },
    ...[TYPE, PHOTOS, WIDGETS].map((origin) => ({ name: new URL(origin).hostname, ...others })),
  ];
}

/** The files of an outsider's page by address. */
export async function outsider(spec: OutsiderSpec): Promise<Files> {
  install();
  const root = path.join(folder, 'node_modules', spec.package, spec.root ?? '');
  const gzip = spec.gzip ?? true;
  const files: Files = new Map();
  const foreign = new Map<string, Foreign>();
  for (const file of spec.parts.flatMap((part) => filesIn(path.join(root, part)))) {
    const type = TYPES[path.extname(file).slice(1).toLowerCase()];
    if (!type || /\.map$/.test(file)) continue;
    const address = `${WWW}/${path.relative(root, file).split(path.sep).map(encodeURIComponent).join('/')}`;
    const text = /^text|json|svg/.test(type);
    const body = fs.readFileSync(file);
    files.set(address, {
      type,
      gzip: text && gzip,
      body: type.startsWith('text/css') ? Buffer.from(withOwnHosts(body.toString('utf8'), foreign)) : body,
    });
  }
  const html = madeUp(fs.readFileSync(path.join(root, spec.document), 'utf8'), foreign);
  for (const [address, { url }] of [...foreign]) {
    const file = spec.elsewhere?.find((name) => address.endsWith(`/${name}`));
    if (file) files.set(url, js(withOwnHosts(fs.readFileSync(path.join(root, file), 'utf8'), foreign), { gzip }));
  }
  files.set(`${WWW}/${spec.document}`, {
    type: 'text/html; charset=utf-8',
    body: Buffer.from(html),
    gzip,
    waitMs: spec.waitMs,
  });
  for (const { url, kind } of foreign.values())
    if (!files.has(url)) for (const [address, file] of await foreignFiles(url, kind)) files.set(address, file);
  return files;
}

const TYPES: Readonly<Record<string, string>> = {
  css: 'text/css; charset=utf-8',
  js: 'text/javascript; charset=utf-8',
  json: 'application/json',
  svg: 'image/svg+xml',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  woff: 'font/woff',
  woff2: 'font/woff2',
  ttf: 'font/ttf',
  eot: 'application/vnd.ms-fontobject',
  md: 'text/markdown; charset=utf-8',
};

/** Fetches the packages once; only measuring needs them. */
function install(): void {
  if (fs.existsSync(path.join(folder, 'node_modules'))) return;
  execFileSync('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'], { cwd: folder, stdio: 'inherit' });
}

function filesIn(at: string): string[] {
  if (fs.statSync(at).isFile()) return [at];
  return fs
    .readdirSync(at)
    .sort()
    .flatMap((name) => (name === 'node_modules' ? [] : filesIn(path.join(at, name))));
}

/** A file of another host, as it is made here. */
interface Foreign {
  readonly url: string;
  readonly kind: 'style' | 'script' | 'picture' | 'font';
}

function replacement(address: string, kind: Foreign['kind'], foreign: Map<string, Foreign>): string {
  const known = foreign.get(address);
  if (known) return known.url;
  const n = [...foreign.values()].filter((f) => f.kind === kind).length + 1;
  const url =
    kind === 'style'
      ? `${TYPE}/type-${n}.css`
      : kind === 'script'
        ? `${WIDGETS}/widget-${n}.js`
        : kind === 'font'
          ? FONT
          : `${PHOTOS}/photo-${n}.jpg`;
  foreign.set(address, { url, kind });
  return url;
}

async function foreignFiles(url: string, kind: Foreign['kind']): Promise<[string, FileSpec][]> {
  const n = Number(/\d+/.exec(url)?.[0]);
  if (kind === 'script') return [[url, js(`${busy(6 + n, `widget${n}`)}/*${words(1500 + 900 * n, 70 + n)}*/`)]];
  if (kind === 'picture') return [[url, await photo(`outside-${n}`, 500 + 150 * (n % 5), 360 + 90 * (n % 5), 68)]];
  if (kind === 'font')
    return [[url, font('@fontsource-variable/source-serif-4', 'source-serif-4-latin-wght-normal.woff2')]];
  const name = n % 2 ? 'public-sans' : 'source-serif-4';
  const file = `${TYPE}/${name}.woff2`;
  const families = [
    'Roboto',
    'Lato',
    'Inter',
    'Muli',
    'Open Sans',
    'Montserrat',
    'Source Sans Pro',
    'PT Sans',
    'PT Serif',
  ];
  return [
    [
      url,
      css(
        families
          .map(
            (f) =>
              `@font-face{font-family:"${f}";font-weight:100 900;font-display:swap;src:url("${file}") format("woff2")}`,
          )
          .join('\n'),
      ),
    ],
    [file, font(`@fontsource-variable/${name}`, `${name}-latin-wght-normal.woff2`)],
  ];
}

const FONT = `${TYPE}/source-serif-4.woff2`;
const FOREIGN = /^\s*(?:https?:)?\/\//i;

/** `url()` and `@import` of real hosts, in a stylesheet. */
function withOwnHosts(sheet: string, foreign: Map<string, Foreign>): string {
  return sheet.replace(
    /(@import\s+(?:url\()?|url\()\s*(["']?)((?:https?:)?\/\/[^"')\s]+)/gi,
    (_, before: string, quote: string, url: string) => {
      const kind = /@import/i.test(before) ? 'style' : /\.woff2?$/i.test(url) ? 'font' : 'picture';
      return before + quote + replacement(url, kind, foreign);
    },
  );
}

type Element = DefaultTreeAdapterMap['element'];
type Node = DefaultTreeAdapterMap['childNode'];

/** The document with made-up words and hosts; what is between stays to the byte. */
function madeUp(html: string, foreign: Map<string, Foreign>): string {
  const edits: { from: number; to: number; text: string }[] = [];
  const random = seeded(7);
  const attribute = (element: Element, name: string, value: string) => {
    const at = element.sourceCodeLocation?.attrs?.[name];
    if (at) edits.push({ from: at.startOffset, to: at.endOffset, text: `${name}="${value.replace(/"/g, '&quot;')}"` });
  };
  const visit = (node: Node, plain: boolean): void => {
    if (node.nodeName === '#text') {
      const at = node.sourceCodeLocation;
      const { parentNode } = node as DefaultTreeAdapterMap['textNode'];
      const raw = /^(script|style|noscript|template)$/.test(parentNode?.nodeName ?? '');
      if (!at) return;
      const source = html.slice(at.startOffset, at.endOffset);
      const text =
        parentNode?.nodeName === 'style'
          ? withOwnHosts(source, foreign)
          : raw || !plain
            ? source
            : reworded(source, random);
      edits.push({ from: at.startOffset, to: at.endOffset, text });
      return;
    }
    if (!('attrs' in node)) return;
    for (const { name, value } of node.attrs) {
      // What comes instead has another hash.
      if (name === 'integrity') attribute(node, name, '');
      else if (/^(alt|title|content|aria-label|placeholder)$/.test(name) && !/[=;:#/.]/.test(value))
        attribute(node, name, reworded(value, random));
      else if (name === 'style') attribute(node, name, withOwnHosts(value, foreign).replaceAll('"', "'"));
      else if (!FOREIGN.test(value) && name !== 'srcset' && name !== 'data-srcset') continue;
      else if (/srcset$/.test(name))
        attribute(
          node,
          name,
          value.replace(/(?:https?:)?\/\/\S+/g, (url) => replacement(url, 'picture', foreign)),
        );
      else if (node.tagName === 'script' && name === 'src')
        attribute(node, name, replacement(value, 'script', foreign));
      else if (node.tagName === 'link' && /\bstylesheet\b/i.test(node.attrs.find((a) => a.name === 'rel')?.value ?? ''))
        attribute(node, name, replacement(value, 'style', foreign));
      else if (node.tagName === 'link' && /preconnect/i.test(node.attrs.find((a) => a.name === 'rel')?.value ?? ''))
        attribute(node, name, TYPE);
      else if (/^(img|image|source|input)$/.test(node.tagName) || /^data-(src|lazy|background)/.test(name))
        attribute(node, name, replacement(value, 'picture', foreign));
      else attribute(node, name, '#');
    }
    const within = 'content' in node ? (node as DefaultTreeAdapterMap['template']).content : node;
    for (const child of within.childNodes) visit(child, plain);
  };
  for (const child of parse(html, { sourceCodeLocationInfo: true }).childNodes) visit(child, true);
  edits.sort((a, b) => b.from - a.from);
  return edits.reduce((text, e) => text.slice(0, e.from) + e.text + text.slice(e.to), html);
}

const SYLLABLES = ['fe', 'rn', 'ho', 'lo', 'mo', 'ss', 'le', 'af', 'po', 'nd', 'se', 'ed', 'bi', 'ro'];

/** Every word of three letters or more becomes one of the same length that means nothing; references stay. */
function reworded(text: string, random: () => number): string {
  return text.replace(/&[#\w]+;|\p{L}{3,}/gu, (word) => {
    if (word.startsWith('&')) return word;
    let out = '';
    while (out.length < word.length) out += SYLLABLES[Math.floor(random() * SYLLABLES.length)];
    out = out.slice(0, word.length);
    return /^\p{Lu}/u.test(word) ? (out[0] ?? '').toUpperCase() + out.slice(1) : out;
  });
}
