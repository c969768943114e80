import { bodiesInMemory } from '../../src/core/capture/capture';
import { readHar } from '../../src/core/capture/har';
import { fixKind } from '../../src/core/fixes';
import { makeFix, type Fix } from '../../src/core/fixes/fix';
import { auditPage, type Audit } from '../../src/core/plan/audit';
import { readPage } from '../../src/core/source/page';
import { editedSite, measuredFixes } from '../../src/engine/imaging/editedSite';
import { measureSizes } from '../../src/engine/imaging/measure';
import { parseFixRequest } from '../../src/engine/services/forecastCapture';
import type { FileSpec, Files } from './site';

/** A fix as the truth file keeps it: enough to apply it to the graph again. */
export interface KeptFix {
  readonly kind: string;
  readonly target: string;
  readonly values: Readonly<Record<string, number>>;
}

/** The audit of a capture as it was recorded, with everything measured that can be. */
export async function auditCapture(har: Buffer): Promise<Audit> {
  const [read] = readHar(har);
  if (!read) throw new Error('The capture has no page.');
  const bodies = bodiesInMemory(read.bodies);
  const page = readPage(read.capture, bodies);
  return auditPage(page, await measureSizes(page, bodies));
}

/** The fix that a request names, whether or not a check asks for it. */
export function fixFor(audit: Audit, request: KeptFix): Fix {
  const kind = fixKind(request.kind);
  if (!kind) throw new Error(`There is no kind of fix ${request.kind}.`);
  const hero = /^hero-/.test(request.kind) && request.target === '*';
  // Values of what is offered (distances of pictures, say) belong to the capture and need not be kept.
  const offered = audit.fixes.find((f) => f.kind === kind.id && (f.target === request.target || f.target === '*'));
  return makeFix({
    kind,
    page: audit.page,
    target: hero ? (audit.hero.load?.url ?? audit.hero.url ?? '*') : request.target,
    findings: [],
    title: kind.title,
    group: request.target,
    values: { ...(request.target === '*' ? offered?.values : {}), ...request.values },
  });
}

/** Applies the fixes of a variant to the files of a page, and says what they were with their true sizes. */
export async function makeVariant(
  files: Files,
  audit: Audit,
  requests: readonly string[],
): Promise<{ files: Files; fixes: KeptFix[] }> {
  const asked = requests.map((r) => fixFor(audit, { values: {}, ...parseFixRequest(r) }));
  const site = await editedSite(asked, audit);
  const out = new Map(files);
  const isRedirect = (f: FileSpec | undefined) => f?.status !== undefined && f.status >= 300 && f.status < 400;
  for (const file of site.files.values()) {
    const was = out.get(file.url) ?? out.get(file.url.replace(/^https:/, 'http:'));
    if (isRedirect(was)) continue;
    const type = was?.type ?? typeOf(audit, file.url);
    out.set(file.url, {
      type,
      headers: was?.headers,
      waitMs: was?.waitMs,
      pauses: was?.pauses,
      hints: was?.hints,
      body: file.body,
      gzip: file.gzip,
    });
  }
  for (const { from, to } of site.converted) if (!out.has(to)) throw new Error(`${from} has no WOFF 2 twin at ${to}.`);
  for (const { url, name, value } of site.headers) {
    const was = out.get(url);
    if (was) out.set(url, { ...was, headers: { ...was.headers, [name]: value } });
  }
  for (const [url, waitMs] of site.waits) {
    const was = out.get(url);
    if (was) out.set(url, { ...was, waitMs, pauses: undefined });
  }
  const fixes: KeptFix[] = [];
  for (const fix of asked)
    for (const f of await measuredFixes(fix, audit)) {
      const bytes: Record<string, number> = f.kind === 'font-convert' ? { bytes: fontBytes(files, f.target) } : {};
      const values = f.kind === 'offscreen-lazy' ? {} : f.values;
      fixes.push({ kind: f.kind, target: f.target, values: { ...values, ...bytes } });
    }
  const same = [...out].every(([url, f]) => files.get(url) === f) && out.size === files.size;
  if (same) throw new Error(`${requests.join(', ')} changes nothing.`);
  return { files: out, fixes };
}

function typeOf(audit: Audit, url: string): string {
  const name = url.split('/').at(-1) ?? '';
  return /\.css/.test(name)
    ? 'text/css'
    : /\.js/.test(name)
      ? 'text/javascript'
      : (audit.page.loadOf(url)?.mimeType ?? 'text/plain');
}

const fontBytes = (files: Files, url: string) => files.get(url.replace(/\.(ttf|woff)$/, '.woff2'))?.body.length ?? 0;
