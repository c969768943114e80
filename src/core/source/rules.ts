import { generate, walk, type CssNode, type Declaration } from 'css-tree';
import { rememberByText } from '../remember';
import { mediaMatches, type Screen } from './media';
import { parseCss } from './parseCss';

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

function parseRules(css: string): SheetRules {
  const rules: StyleRule[] = [];
  const named: NamedRule[] = [];
  try {
    const sheet = parseCss(css, {
      positions: true,
      parseValue: false,
      parseRulePrelude: false,
      parseAtrulePrelude: false,
      parseCustomProperty: false,
    });
    const media: string[] = [];
    let inKeyframes = 0;
    walk(sheet, {
      enter(node: CssNode) {
        if (node.type === 'Atrule') {
          const name = node.name.toLowerCase();
          const prelude = textOf(node.prelude);
          if (name === 'media') media.push(prelude);
          else if (/keyframes$/.test(name)) {
            inKeyframes++;
            named.push({ kind: 'keyframes', name: prelude.trim(), declarations: framesOf(node), ...offsets(node) });
          } else if (name === 'font-face') {
            const declarations = declarationsOf(node.block?.children);
            named.push({
              kind: 'font-face',
              name: unquote(declarations.get('font-family') ?? ''),
              declarations,
              ...offsets(node),
            });
          }
        } else if (node.type === 'Rule' && inKeyframes === 0) {
          rules.push({
            selectorText: textOf(node.prelude),
            declarations: declarationsOf(node.block.children),
            media: [...media],
            ...offsets(node),
          });
        }
      },
      leave(node: CssNode) {
        if (node.type !== 'Atrule') return;
        if (node.name.toLowerCase() === 'media') media.pop();
        else if (/keyframes$/i.test(node.name)) inKeyframes--;
      },
    });
    return { rules, named };
  } catch {
    // Nesting deeper than the call stack: hostile, and no browser would draw it.
    return NONE;
  }
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
