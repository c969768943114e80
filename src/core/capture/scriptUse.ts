/** How much of one script ran until the page had settled, in characters of its source. */
export interface ScriptUse {
  readonly url: string;
  readonly chars: number;
  readonly ranChars: number;
}

/** A part of a script as the debugging protocol tells it: characters from `startOffset` to before `endOffset`. */
export interface CoveredRange {
  readonly startOffset: number;
  readonly endOffset: number;
  /** How often it ran; 0 for not at all. */
  readonly count: number;
}

/**
 * Characters that ran. Ranges lie inside one another or apart, as functions do, and the innermost one decides; a pure
 * function in O(n log n).
 */
export function ranChars(ranges: readonly CoveredRange[]): number {
  const sorted = ranges
    .filter((r) => r.endOffset > r.startOffset)
    .sort((a, b) => a.startOffset - b.startOffset || b.endOffset - a.endOffset);
  let ran = 0;
  let at = 0;
  const open: CoveredRange[] = [];
  /** Counts what lies between the last border and this one for the innermost range that is open. */
  const upTo = (border: number) => {
    const inner = open.at(-1);
    if (inner && inner.count > 0 && border > at) ran += border - at;
    at = Math.max(at, border);
  };
  const closeBefore = (border: number) => {
    for (let inner = open.at(-1); inner && inner.endOffset <= border; inner = open.at(-1)) {
      upTo(inner.endOffset);
      open.pop();
    }
  };
  for (const range of sorted) {
    closeBefore(range.startOffset);
    upTo(range.startOffset);
    open.push(range);
  }
  closeBefore(Infinity);
  return ran;
}

/**
 * Of each script file how much ran. A file that the page runs twice (in a frame, say) counts by the run that used most of
 * it. What stands in the document itself is left out: its offsets are those of the script elements.
 * @param scripts ranges of each script's functions, the whole script among them
 * @param files addresses of what was loaded as a script
 */
export function scriptUses(
  scripts: readonly { readonly url: string; readonly ranges: readonly CoveredRange[] }[],
  files: ReadonlySet<string>,
): ScriptUse[] {
  const out = new Map<string, ScriptUse>();
  for (const { url, ranges } of scripts) {
    const chars = ranges.reduce((most, r) => Math.max(most, r.endOffset), 0);
    if (!files.has(url) || chars === 0) continue;
    const ran = ranChars(ranges);
    const known = out.get(url);
    if (!known || ran > known.ranChars) out.set(url, { url, chars, ranChars: ran });
  }
  return [...out.values()];
}
