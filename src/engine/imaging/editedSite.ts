import zlib from 'node:zlib';
import { promisify } from 'node:util';
import { type Load, header } from '../../core/capture/capture';
import { resolveUrl } from '../../core/capture/url';
import { fixKind } from '../../core/fixes';
import { applyEdits, type Edit } from '../../core/fixes/edits';
import type { Fix, OfferContext } from '../../core/fixes/fix';
import type { ServerChange } from '../../core/fixes/serverChange';
import { listStyleReferences } from '../../core/source/stylesheet';
import { toWoff2 } from './fonts';
import { encodeAs, minified } from './measure';

const gzip = promisify(zlib.gzip);

/** A file as fixes leave it. */
export interface EditedFile {
  readonly url: string;
  /** Without content coding. */
  readonly body: Buffer;
  readonly gzip: boolean;
  /** Body as transferred. */
  readonly wireBytes: number;
}

/** What fixes make of the files and servers of a capture. */
export interface EditedSite {
  readonly files: ReadonlyMap<string, EditedFile>;
  readonly headers: readonly { readonly url: string; readonly name: string; readonly value: string }[];
  /** Think times in ms, by address. */
  readonly waits: ReadonlyMap<string, number>;
  /** Fonts that are to be offered as WOFF 2: old and new address. What could not be converted is not among the files. */
  readonly converted: readonly { readonly from: string; readonly to: string }[];
}

/**
 * Really applies fixes to the bodies of a capture: edits of source, then what has to be made anew. Files that a
 * capture has no body of are left out.
 */
export async function editedSite(fixes: readonly Fix[], context: OfferContext): Promise<EditedSite> {
  const { page } = context;
  const edits = sourceEdits(fixes, context);
  const changes: ServerChange[] = fixes.flatMap((fix) => fixKind(fix.kind)?.onServer?.(fix, context) ?? []);
  const drafts = new Map<string, { body: Buffer; gzip: boolean; load: Load }>();
  const draft = (url: string) => {
    const known = drafts.get(url);
    if (known) return known;
    const load = page.loadOf(url);
    const bytes = load && page.bodies.bytes(load);
    if (!load || !bytes) return undefined;
    const coding = header(load.responseHeaders, 'content-encoding') ?? '';
    const made = { body: Buffer.from(bytes), gzip: /gzip|br|zstd|deflate/.test(coding), load };
    drafts.set(url, made);
    return made;
  };
  for (const [url, own] of edits) {
    const file = draft(url);
    const text = file && (url === page.document?.url ? page.document.text : page.bodies.text(file.load));
    if (file && text !== undefined) file.body = Buffer.from(applyEdits(text, own));
  }
  for (const c of changes) {
    if (c.do === 'minify') {
      const file = draft(c.url);
      if (file) file.body = await minified(file.body, file.load.kind === 'style' ? 'css' : 'js');
    } else if (c.do === 'resize') {
      const file = draft(c.url);
      const made = file && (await encodeAs(file.body, c.width, c.height));
      if (file && made) file.body = made;
    } else if (c.do === 'compress') {
      const file = draft(c.url);
      if (file) file.gzip = true;
    }
  }
  for (const c of changes) {
    const font = c.do === 'convert' ? draft(c.url) : undefined;
    const made = font && (await toWoff2(font.body));
    // The font itself stays as it is.
    if (c.do === 'convert') drafts.delete(c.url);
    if (c.do === 'convert' && font && made) drafts.set(c.to, { ...font, body: made, gzip: false });
  }
  for (const c of changes) {
    if (c.do !== 'copy') continue;
    const file = draft(c.url);
    if (file) drafts.set(c.to, { ...file, body: file.load.kind === 'style' ? absolute(file.body, c.url) : file.body });
  }
  const files = new Map<string, EditedFile>();
  for (const [url, file] of drafts)
    files.set(url, {
      url,
      body: file.body,
      gzip: file.gzip,
      wireBytes: file.gzip ? (await gzip(file.body, { level: 6 })).length : file.body.length,
    });
  return {
    files,
    headers: changes.flatMap((c) => (c.do === 'header' ? [c] : [])),
    waits: new Map(changes.flatMap((c) => (c.do === 'answer' ? [[c.url, c.waitMs] as const] : []))),
    converted: changes.flatMap((c) => (c.do === 'convert' ? [{ from: c.url, to: c.to }] : [])),
  };
}

/** Edits of source by the file that they change. */
export function sourceEdits(fixes: readonly Fix[], context: OfferContext): Map<string, Edit[]> {
  const edits = new Map<string, Edit[]>();
  for (const fix of fixes)
    for (const e of fixKind(fix.kind)?.onSource(fix, context) ?? []) edits.set(e.url, [...(edits.get(e.url) ?? []), e]);
  return edits;
}

/** Kinds whose effect is a size that only doing it tells. */
const SIZED = new Set([
  'image-resize',
  'text-compress',
  'minify',
  'font-convert',
  'style-remove-unused',
  'style-inline-critical',
]);

/**
 * A fix with the sizes that really doing it gives, for each load that it changes; fixes of several files become one
 * fix a file.
 */
export async function measuredFixes(fix: Fix, context: OfferContext): Promise<Fix[]> {
  if (!SIZED.has(fix.kind)) return [fix];
  const { files, converted } = await editedSite([fix], context);
  const { page } = context;
  if (fix.kind === 'font-convert') {
    const made = converted.flatMap(({ from, to }) => {
      const bytes = files.get(to)?.wireBytes;
      return bytes === undefined ? [] : [{ from, bytes }];
    });
    return made.length === 0
      ? [fix]
      : made.map(({ from, bytes }) => ({
          ...fix,
          id: made.length === 1 ? fix.id : `${fix.id}:${from}`,
          target: from,
          values: { ...fix.values, bytes },
        }));
  }
  if (fix.kind === 'style-inline-critical') {
    const before = page.loadOf(page.capture.page);
    const after = files.get(page.capture.page);
    if (!before || !after) return [fix];
    const bytes = Math.max(0, after.wireBytes - before.bodyBytes);
    return [
      { ...fix, values: { ...fix.values, bytes, decoded: Math.max(0, after.body.length - before.decodedBytes) } },
    ];
  }
  if (files.size === 0) return [fix];
  return [...files.values()].map((f) => ({
    ...fix,
    id: files.size === 1 ? fix.id : `${fix.id}:${f.url}`,
    target: f.url,
    values: { ...fix.values, bytes: f.wireBytes },
  }));
}

function absolute(body: Buffer, url: string): Buffer {
  const text = body.toString('utf8');
  const edits = listStyleReferences(text, url).map((r) => ({
    url,
    start: r.offset,
    end: r.offset + r.length,
    text: resolveUrl(r.raw, url) ?? r.raw,
  }));
  return Buffer.from(applyEdits(text, edits));
}
