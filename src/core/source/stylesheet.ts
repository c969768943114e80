import { tokenize, tokenNames } from 'css-tree';
import { resolveUrl } from '../capture/url';
import { rememberByText } from '../remember';
import { redactUrl } from '../capture/redact';

/** One address inside a stylesheet, with its offset in the text. */
export interface StyleReference {
  readonly url: string;
  readonly raw: string;
  readonly offset: number;
  readonly length: number;
  readonly use: 'import' | 'font' | 'image';
  /** Property it stands in, e.g. `background-image`; empty for @import. */
  readonly property: string;
}

const URL_TOKEN = tokenNames.indexOf('url-token');
const FUNCTION = tokenNames.indexOf('function-token');
const STRING = tokenNames.indexOf('string-token');
const AT_KEYWORD = tokenNames.indexOf('at-keyword-token');
const IDENT = tokenNames.indexOf('ident-token');
const COLON = tokenNames.indexOf('colon-token');
const SEMICOLON = tokenNames.indexOf('semicolon-token');
const LEFT_BRACE = tokenNames.indexOf('{-token');
const RIGHT_BRACE = tokenNames.indexOf('}-token');
const LEFT_PARENTHESIS = tokenNames.indexOf('(-token');
const RIGHT_PARENTHESIS = tokenNames.indexOf(')-token');
const SPACE = tokenNames.indexOf('whitespace-token');
const COMMENT = tokenNames.indexOf('comment-token');

/**
 * Addresses a stylesheet names, in order (CSS Syntax Level 3 tokens; @import of CSS Cascade,
 * section 2). Comments are passed over; data: URLs are left out.
 */
export function listStyleReferences(css: string, baseUrl: string): StyleReference[] {
  const known = byBase(css);
  const kept = known.get(baseUrl);
  if (kept) return kept;
  const found = findReferences(css, baseUrl);
  known.set(baseUrl, found);
  return found;
}

/** A sheet has one address, or few. */
const byBase = rememberByText(() => new Map<string, StyleReference[]>());

function findReferences(css: string, baseUrl: string): StyleReference[] {
  const out: StyleReference[] = [];
  let property = '';
  let ident = '';
  let atRule = '';
  let fontFace = false;
  let inUrl = false;
  // Functions that are open: strings of image-set() are addresses, those of type() inside it are not (CSS Images 4, 2.4).
  const open: string[] = [];
  const add = (raw: string, offset: number, length: number) => {
    const value = raw.replace(/\\(.)/g, '$1').trim();
    // A namespace is a name, not an address to fetch (CSS Namespaces 3, 2).
    if (!value || atRule === 'namespace' || /^(data|blob|about):/i.test(value) || value.startsWith('#')) return;
    const url = resolveUrl(value, baseUrl);
    if (!url) return;
    const use = atRule === 'import' ? 'import' : fontFace ? 'font' : 'image';
    out.push({ url: redactUrl(url), raw: value, offset, length, use, property: use === 'import' ? '' : property });
  };
  tokenize(css, (type, start, end) => {
    if (type === SPACE || type === COMMENT) return;
    if (type === AT_KEYWORD) {
      atRule = css.slice(start + 1, end).toLowerCase();
      if (atRule === 'font-face') fontFace = true;
    } else if (type === IDENT) ident = css.slice(start, end).toLowerCase();
    else if (type === COLON) property = ident;
    else if (type === SEMICOLON) atRule = '';
    else if (type === LEFT_BRACE) {
      atRule = '';
      open.length = 0;
    } else if (type === RIGHT_BRACE) fontFace = false;
    else if (type === FUNCTION) {
      open.push(css.slice(start, end - 1).toLowerCase());
      inUrl = open.at(-1) === 'url';
    } else if (type === LEFT_PARENTHESIS) open.push('');
    else if (type === RIGHT_PARENTHESIS) open.pop();
    else if (type === URL_TOKEN) {
      const inner = css.slice(start + 4, end - 1);
      const lead = inner.length - inner.trimStart().length;
      add(inner, start + 4 + lead, inner.trim().length);
    } else if (type === STRING) {
      if (inUrl || atRule === 'import' || /^(-webkit-)?image-set$/.test(open.at(-1) ?? ''))
        add(css.slice(start + 1, end - 1), start + 1, end - start - 2);
      inUrl = false;
    }
  });
  return out;
}
