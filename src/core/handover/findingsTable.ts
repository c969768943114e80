import { CHECKS } from '../checks';
import type { Finding } from '../checks/finding';
import { toCsv } from './csv';

/** Columns of a table of findings, in this order. */
export const FINDING_COLUMNS = [
  'page',
  'concern',
  'harm',
  'check',
  'title',
  'in plain words',
  'target',
  'source',
  'line',
  'column',
  'element',
  'files',
  'change',
  'fixed when',
  'standard',
  'figures',
  'fixes',
  'saves, ms of hero paint on this page',
  'cause',
] as const;

/** Findings as rows of a table. */
export function findingRows(
  findings: readonly Finding[],
  effects?: ReadonlyMap<string, { readonly titles: readonly string[]; readonly savedMs: number }>,
): (string | number | undefined)[][] {
  const checks = new Map(CHECKS.map((c) => [c.id, c]));
  return findings.map((f) => {
    const check = checks.get(f.check);
    return [
      f.page,
      f.concern,
      f.harm,
      f.check,
      f.title,
      f.plain,
      f.target,
      f.evidence.source?.url,
      f.evidence.source?.line,
      f.evidence.source?.column,
      f.evidence.element ?? f.evidence.path,
      f.evidence.files?.map((l) => l.url).join('\n'),
      check?.change,
      check?.fixedWhen,
      check?.standard,
      Object.entries(f.evidence.numbers)
        .map(([name, value]) => `${name} ${value}`)
        .join('; '),
      effects?.get(f.id)?.titles.join('\n'),
      effects?.has(f.id) ? Math.round(effects.get(f.id)?.savedMs ?? 0) : undefined,
      f.cause,
    ];
  });
}

/** Findings as a CSV table. */
export function findingsCsv(findings: readonly Finding[], effects?: Parameters<typeof findingRows>[1]): string {
  return toCsv(FINDING_COLUMNS, findingRows(findings, effects));
}
