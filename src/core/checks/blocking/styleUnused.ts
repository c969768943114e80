import { screenOf } from '../../source/media';
import { fileName } from '../../capture/url';
import { applies, type StyleRule } from '../../source/rules';
import { selectorsFor } from '../../source/selectors';
import type { SourceElement } from '../../source/document';
import type { Page, PageStyle } from '../../source/page';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';
import { isRenderBlocking } from './verdict';

const MOST_COMPARISONS = 3_000_000;

/** How much of a stylesheet something uses, in characters of its text. */
export interface StyleUse {
  readonly all: number;
  /** Rules that match something of the first screen, and font and animation rules. */
  readonly used: number;
  /** True when the first screen was recorded; otherwise anything on the page counts as used. */
  readonly firstScreen: boolean;
}

/**
 * Holds the rules of a sheet against the elements of the first screen (of the whole page where that was not
 * recorded). Rules for states and parts count with what they belong to.
 */
export function styleUse(page: Page, sheet: PageStyle): StyleUse {
  const known = examined.get(sheet) ?? examineUse(page, sheet);
  examined.set(sheet, known);
  return known;
}

/** Sheets of pages that are held in memory; a sheet belongs to one page. */
const examined = new WeakMap<PageStyle, StyleUse>();

function examineUse(page: Page, sheet: PageStyle): StyleUse {
  const screen = screenOf(page.capture.conditions);
  const isNeeded = ruleTest(page, true);
  let used = page.rulesOf(sheet).named.reduce((sum, n) => sum + n.end - n.start, 0);
  let all = used;
  for (const { rule, needed } of outerRules(page, sheet, (r) => applies(r, screen) && isNeeded(r))) {
    const length = rule.end - rule.start;
    all += length;
    if (needed) used += length;
  }
  return { all, used, firstScreen: firstScreenOf(page) !== undefined };
}

/**
 * Rules of a sheet that can go, in order and none inside another: `firstScreen` for those that the first screen
 * does without, `page` for those that match nothing on the page in any state. What cannot be told stays.
 */
export function idleRules(page: Page, sheet: PageStyle, than: 'firstScreen' | 'page'): StyleRule[] {
  const outer = outerRules(page, sheet, ruleTest(page, than === 'firstScreen'));
  return outer.filter((r) => !r.needed).map((r) => r.rule);
}

/** Rules that stand inside no other; one is needed when it is itself, or a rule nested in it. */
function outerRules(
  page: Page,
  sheet: PageStyle,
  isNeeded: (rule: StyleRule) => boolean,
): { rule: StyleRule; needed: boolean }[] {
  const out: { rule: StyleRule; needed: boolean }[] = [];
  for (const rule of page.rulesOf(sheet).rules) {
    const last = out.at(-1);
    if (last && rule.start < last.rule.end) last.needed ||= isNeeded(rule);
    else out.push({ rule, needed: isNeeded(rule) });
  }
  return out;
}

function firstScreenOf(page: Page): ReadonlySet<string> | undefined {
  const paths = page.rendered && page.capture.observations?.firstScreen;
  return paths && new Set(paths);
}

/** Whether a rule is needed: by the first screen as it is first drawn, or by anything on the page in any state. */
function ruleTest(page: Page, byFirstScreen: boolean): (rule: StyleRule) => boolean {
  // What a script took away again counts for the page, not for its first screen.
  const trees = [page.rendered, byFirstScreen && page.rendered ? undefined : page.tree].filter((t) => t !== undefined);
  const first = byFirstScreen ? firstScreenOf(page) : undefined;
  // The root is not in the body, and always on the screen.
  const counts = (e: SourceElement) => !first || first.has(e.path) || e.tag === 'html';
  let left = MOST_COMPARISONS;
  return (rule) =>
    trees.some((tree) =>
      selectorsFor(rule, tree).some((test) => {
        if (!tree.mayMatch(test)) return false;
        if (test.state) return !byFirstScreen;
        left -= tree.candidates(test);
        // What cannot be told, or could not be looked into, counts as used.
        return test.unknown || left < 0 || tree.select(test).some(counts);
      }),
    );
}

/** Blocking stylesheets of which the first screen uses little. */
export const styleUnused: Check = {
  id: 'style-unused',
  concern: 'blocking',
  question: 'How much of each blocking stylesheet is used above the fold?',
  examines: 'Every rule against the elements above the fold, or those of the whole page where that was not recorded.',
  cannotSee: 'Rules for what opens, is hovered or is added later; other pages that need the rest.',
  fixedWhen: 'Most of what blocks is used; the rest loads later or is gone.',
  harms: ['slow', 'tidy'],
  standard: 'Selectors 4; CSS Cascade 5; HTML, 4.6.7.20',
  change: 'Inline the critical CSS, and load the stylesheet without blocking; delete what no page uses.',
  thresholds: [
    {
      id: 'share',
      name: 'unused share from',
      unit: 'share',
      value: 0.6,
      why: 'Some unused rules are normal: a stylesheet serves several pages.',
    },
    {
      id: 'bytes',
      name: 'unused bytes from',
      unit: 'bytes',
      value: 8_000,
      why: 'Fewer transferred bytes are not noticeable.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    return page.styles.flatMap((sheet) => {
      const { load } = sheet;
      if (!load || load.bodyBytes < limitOf(this, subject, 'bytes') || !isRenderBlocking(page, load)) return [];
      const { all, used, firstScreen } = styleUse(page, sheet);
      const share = all === 0 ? 0 : 1 - used / all;
      const savedBytes = Math.round(load.bodyBytes * share);
      if (share < limitOf(this, subject, 'share') || savedBytes < limitOf(this, subject, 'bytes')) return [];
      const percent = Math.round(share * 100);
      return [
        finding({
          check: this,
          subject,
          harm: savedBytes > 15_000 ? 'slow' : 'tidy',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: {
            unusedShare: Math.round(share * 1000) / 1000,
            savedBytes,
            usedBytes: Math.round(load.bodyBytes * (1 - share)),
            firstScreen: firstScreen ? 1 : 0,
          },
          title: `${percent} % of ${fileName(load.url)} is not used ${firstScreen ? 'above the fold' : 'on this page'} (${bytesText(savedBytes)} transferred)`,
          plain:
            'Visitors wait for the whole stylesheet, although the content above the fold needs a small part of it.',
        }),
      ];
    });
  },
};
