import { generate, tokenize, tokenNames, type CssNode, type Declaration } from 'css-tree';
import { rememberByText } from '../remember';
import { mediaMatches, type Screen } from './media';
import { parseCss } from './parseCss';
import { MOST_CHARACTERS } from './readable';
import { splitList } from './selectors';

/** One style rule, with its offsets in the text of its sheet. */
export interface StyleRule {
  /** Its selector list as written; `selectorsFor` reads it. */
  readonly selectorText: string;
  /** Values by property in lower case, as written; the last one wins. */
  readonly declarations: ReadonlyMap<string, string>;
  /** Media queries around it, outermost first. */
  readonly media: readonly string[];
  readonly start: number;
  readonly end: number;
}

/** A rule that is not for elements: fonts and animations. */
export interface NamedRule {
  readonly kind: 'font-face' | 'keyframes';
  readonly name: string;
  readonly declarations: ReadonlyMap<string, string>;
  readonly start: number;
  readonly end: number;
}

/** The rules of one stylesheet in order. */
export interface SheetRules {
  readonly rules: readonly StyleRule[];
  readonly named: readonly NamedRule[];
}

const NONE: SheetRules = { rules: [], named: [] };

/**
 * Reads the rules of a stylesheet (CSS Syntax 3; conditional rules of CSS Conditional 3). Faulty declarations are
 * passed over as browsers do; nesting without end gives no rules.
 */
export const readRules = rememberByText(parseRules);

const READ = {
  positions: true,
  parseValue: false,
  parseRulePrelude: false,
  parseAtrulePrelude: false,
  parseCustomProperty: false,
} as const;

function parseRules(css: string): SheetRules {
  const rules: StyleRule[] = [];
  const named: NamedRule[] = [];
  try {
    const sheet = parseCss(css.slice(0, MOST_CHARACTERS), READ);
    if (sheet.type === 'StyleSheet') readBlock(sheet.children, { media: [], parent: undefined }, { css, rules, named });
    return { rules, named };
  } catch {
    // Nesting deeper than the call stack: hostile, and no browser would draw it.
    return NONE;
  }
}

interface Reading {
  readonly css: string;
  readonly rules: StyleRule[];
  readonly named: NamedRule[];
}

interface Around {
  /** Media queries, outermost first. */
  readonly media: readonly string[];
  /** Selector list of the rule around, with its own parents in it. */
  readonly parent: string | undefined;
}

/** Reads a list of rules, nested ones too (CSS Nesting 1, 3): these stand behind the rule they are in. */
function readBlock(nodes: Iterable<CssNode>, around: Around, out: Reading): void {
  for (const node of nodes) {
    if (node.type === 'Rule') {
      const selectorText = nested(textOf(node.prelude), around.parent);
      const children = [...node.block.children].flatMap((n) => inBlock(n, out.css));
      out.rules.push({ selectorText, declarations: declarationsOf(children), media: around.media, ...offsets(node) });
      readBlock(children, { ...around, parent: selectorText }, out);
    } else if (node.type === 'Atrule') readAtRule(node, around, out);
  }
}

function readAtRule(node: Extract<CssNode, { type: 'Atrule' }>, around: Around, out: Reading): void {
  const name = node.name.toLowerCase();
  const prelude = textOf(node.prelude);
  if (/keyframes$/.test(name))
    out.named.push({ kind: 'keyframes', name: prelude.trim(), declarations: framesOf(node), ...offsets(node) });
  else if (name === 'font-face') {
    const declarations = declarationsOf(node.block?.children);
    const family = unquote(declarations.get('font-family') ?? '');
    out.named.push({ kind: 'font-face', name: family, declarations, ...offsets(node) });
  } else if (node.block) {
    const media = name === 'media' ? [...around.media, prelude] : around.media;
    const children =
      around.parent === undefined ? node.block.children : [...node.block.children].flatMap((n) => inBlock(n, out.css));
    const declarations = declarationsOf(children);
    // A conditional rule inside a style rule may hold declarations of that one.
    if (around.parent !== undefined && declarations.size > 0)
      out.rules.push({ selectorText: around.parent, declarations, media, ...offsets(node) });
    readBlock(children, { ...around, media }, out);
  }
}

/**
 * The parser knows nested rules that begin with `&` or `@`; others it leaves unread, or takes for a declaration, with all
 * up to the next semicolon. These are taken apart here.
 */
function inBlock(node: CssNode, css: string): CssNode[] {
  // A value with braces is none: `a:hover {}` looks like a declaration to the parser (CSS Syntax 3, 5.5.6).
  const value = node.type === 'Raw' ? node.value : node.type === 'Declaration' ? textOf(node.value) : '';
  if (!node.loc || !value.includes('{') || (node.type === 'Declaration' && node.property.startsWith('--')))
    return [node];
  const base = node.loc.start.offset;
  const text = css.slice(base, node.loc.end.offset);
  const out: CssNode[] = [];
  let start = 0;
  let depth = 0;
  const take = (end: number, isRule: boolean) => {
    const piece = text.slice(start, end);
    if (isRule && !/^\s*@/.test(piece)) out.push(...childrenOf(parseCss(piece, { ...READ, offset: base + start })));
    else {
      // Inside a rule, an at-rule may hold declarations.
      const [rule] = childrenOf(parseCss(`a{${piece}}`, { ...READ, offset: base + start - 2 }));
      if (rule?.type === 'Rule') out.push(...rule.block.children);
    }
    start = end;
  };
  tokenize(text, (type, _start, end) => {
    if (type === LEFT_BRACE) depth++;
    else if (type === RIGHT_BRACE && --depth === 0) take(end, true);
    else if (type === SEMICOLON && depth === 0) take(end, false);
  });
  if (start < text.length) take(text.length, false);
  return out;
}

const childrenOf = (sheet: CssNode): CssNode[] => (sheet.type === 'StyleSheet' ? [...sheet.children] : []);

const SEMICOLON = tokenNames.indexOf('semicolon-token');
const LEFT_BRACE = tokenNames.indexOf('{-token');
const RIGHT_BRACE = tokenNames.indexOf('}-token');

/** A list that repeats its parent may grow without end; beyond this it counts as a selector that nobody can tell. */
const LONGEST_PARENT = 2000;

/** A nested selector list with its parent written in: `&` stands for it, and a list without `&` is relative to it. */
function nested(text: string, parent: string | undefined): string {
  if (parent === undefined) return text.replace(/&/g, ':scope');
  if (parent.length > LONGEST_PARENT) return ':deep';
  const own = `:is(${parent})`;
  return splitList(text)
    .map((part) => {
      const trimmed = part.trim();
      if (!trimmed.includes('&')) return `${own} ${trimmed}`;
      return (/^[>+~]/.test(trimmed) ? `${own} ${trimmed}` : trimmed).replace(/&/g, () => own);
    })
    .join(', ');
}

function offsets(node: CssNode): { start: number; end: number } {
  return { start: node.loc?.start.offset ?? 0, end: node.loc?.end.offset ?? 0 };
}

/** Values by property, the last one that counts: what is important ends in `!important`, and yields to the like only. */
function declarationsOf(children: Iterable<CssNode> | undefined): Map<string, string> {
  const out = new Map<string, string>();
  for (const node of children ?? []) {
    if (node.type !== 'Declaration') continue;
    const property = node.property.toLowerCase();
    if (node.important) out.set(property, `${valueOf(node)} !important`);
    else if (!out.get(property)?.endsWith(' !important')) out.set(property, valueOf(node));
  }
  return out;
}

/** What the first and the last frame say, first one first: enough to see that something begins invisible. */
function framesOf(node: Extract<CssNode, { type: 'Atrule' }>): Map<string, string> {
  for (const rule of node.block?.children ?? [])
    if (rule.type === 'Rule' && /^\s*(from|0%)/i.test(textOf(rule.prelude))) return declarationsOf(rule.block.children);
  return new Map();
}

const valueOf = (node: Declaration) => textOf(node.value);

/** What was not parsed stands as it is written. */
function textOf(node: CssNode | null): string {
  if (node === null) return '';
  return (node.type === 'Raw' ? node.value : generate(node)).trim();
}

/** A CSS string or identifier list item without its quotes. */
export function unquote(text: string): string {
  return text.trim().replace(/^(['"])(.*)\1$/, '$2');
}

/** True when every media query around a rule applies to a screen. */
export function applies(rule: Pick<StyleRule, 'media'>, screen: Screen): boolean {
  return rule.media.every((m) => mediaMatches(m, screen));
}

/** Values of inline declarations (a style attribute). */
export function readDeclarations(style: string): ReadonlyMap<string, string> {
  try {
    const list = parseCss(style, {
      context: 'declarationList',
      parseValue: false,
      parseCustomProperty: false,
    }) as CssNode & {
      children: Iterable<CssNode>;
    };
    return declarationsOf(list.children);
  } catch {
    return new Map();
  }
}
