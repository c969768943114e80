import type { Finding } from '../checks/finding';
import { toCsv } from './csv';

/** Findings as a CSV table. */
export function findingsCsv(findings: readonly Finding[]): string {
  return toCsv(
    ['page', 'concern', 'harm', 'check', 'title', 'in plain words', 'target', 'source', 'line', 'column', 'element'],
    findings.map((f) => [
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
    ]),
  );
}
