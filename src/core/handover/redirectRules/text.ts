import type { RedirectPlan } from './plan';
import { ruleChecks } from './plan';

/** A regular expression for a path as servers compare it: decoded, quoted where it would mean something. */
export function pathPattern(path: string): string {
  let plain = path;
  try {
    plain = decodeURIComponent(path);
  } catch {
    // Percent signs that encode nothing stand for themselves.
  }
  return plain.replace(/[\\^$.|?*+()[\]{}]/g, '\\$&');
}

/** A text between double quotes, as the configuration files of all three servers read it. */
export const quoted = (text: string): string => `"${text.replaceAll('"', '\\"')}"`;

/** Path and query of an address apart. */
export function partsOf(from: string): { path: string; query: string } {
  const mark = from.indexOf('?');
  return mark < 0 ? { path: from, query: '' } : { path: from.slice(0, mark), query: from.slice(mark + 1) };
}

/** Lines above the rules: where they belong, and what was left out. */
export function headOf(plan: RedirectPlan, place: readonly string[]): string[] {
  return [
    `# Redirect rules of ${plan.hosts.join(' and ')}: everything ends at ${plan.origin}.`,
    ...place.map((p) => `# ${p}`),
    ...(plan.refused.length > 0 ? ['#', '# Not in these rules:'] : []),
    ...plan.refused.map((r) => `#   ${oneLine(r.from)}${r.to ? ` -> ${oneLine(r.to)}` : ''}: ${r.why}`),
    '',
  ];
}

/** Lines below the rules: how to see that they hold. */
export function checksOf(plan: RedirectPlan): string[] {
  const checks = ruleChecks(plan);
  if (checks.length === 0) return [];
  return [
    '',
    '# Verify with (each line shows status and target):',
    ...checks
      .slice(0, 200)
      .map(
        (c) =>
          `#   curl -sS -o /dev/null -w '%{http_code} %{redirect_url}\\n' '${c.url.replaceAll("'", '%27')}'   # ${c.status}${c.location ? ` ${c.location}` : ''}`,
      ),
  ];
}

/** A text that cannot leave its comment line. */
export const oneLine = (text: string): string => text.replace(/[\u0000-\u001F\u007F]+/g, ' ').slice(0, 500);
