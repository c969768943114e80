import { strToU8, zipSync, type Zippable } from 'fflate';
import type { ReportFacts } from '../../core/handover/report/facts';
import { fixerMarkdown } from '../../core/handover/report/fixer';
import { changedFiles } from './editedFiles';

/** What is packed already: packing it again only takes time. */
const PACKED = /\.(jpe?g|png|webp|avif|gif|woff2?|zip|gz|br)$/i;

/**
 * The fixer's tasks with everything ready made in one ZIP: `tasks.md`, `changes.patch` for `git apply`, and under `files/` the
 * files as the fixes leave them, re-encoded pictures and self-hosted copies among them. What could not be made is listed in
 * `left-out.txt`.
 */
export async function fixerPackage(facts: ReportFacts): Promise<Uint8Array> {
  const groups = new Set(facts.fixes.map((f) => f.group));
  const audits = await Promise.all(facts.pages.map(async (p) => ({ ...(await p.open()), fixes: p.fixes })));
  // Pages that are not in the report may need rules that these do not use.
  const { files, leftOut } = await changedFiles(
    audits,
    (fix) => groups.has(fix.group) && fix.kind !== 'style-remove-unused',
  );
  const rules = facts.fixes.some((f) => f.kind === 'style-remove-unused')
    ? ['Remove unused rules: other pages may use them.']
    : [];
  const missing = [...rules, ...leftOut];
  const entries: Zippable = {
    'tasks.md': strToU8(fixerMarkdown(facts)),
    'changes.patch': strToU8(files.map((f) => f.patch ?? '').join('')),
    ...(missing.length > 0 && { 'left-out.txt': strToU8(`${missing.join('\n')}\n`) }),
  };
  for (const { path, bytes } of files) entries[`files/${path}`] = [bytes, { level: PACKED.test(path) ? 0 : 6 }];
  const day = Date.parse(`${facts.head.day}T12:00:00`);
  return zipSync(entries, { mtime: Number.isFinite(day) ? day : Date.now() });
}
