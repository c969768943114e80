import { InputError } from '../core/capture/errors';
import type { Fix } from '../core/fixes/fix';
import type { Audit } from '../core/plan/audit';
import { parseFixRequest, resolveFixes, withMeasuredValues } from '../engine/services/forecastCapture';
import { auditInput } from './options';

/**
 * One page of a file with the fixes that were named; all that are offered when none was.
 * @throws InputError when the file has no such page, or a fix is none
 */
export async function chosenPage(
  file: string,
  flags: { readonly page?: string; readonly fix?: readonly string[] },
): Promise<{ audit: Audit; fixes: Fix[] }> {
  const requests = (flags.fix ?? []).map(parseFixRequest);
  const audits = (await auditInput(file)).map((a) => a.audit);
  const wanted = flags.page ? new URL(flags.page).href : undefined;
  const audit = wanted
    ? audits.find((a) => a.page.capture.page === wanted || a.page.capture.requested === wanted)
    : audits[0];
  if (!audit)
    throw new InputError(
      'The file has no such page.',
      flags.page ?? file,
      `It has: ${audits.map((a) => a.page.capture.page).join(', ')}`,
    );
  const fixes = flags.fix
    ? await withMeasuredValues(resolveFixes(requests, audit.fixes, audit, audit.graph), audit)
    : [...audit.fixes];
  return { audit, fixes };
}
