import { filePathOf } from '../../core/handover/filePath';
import { patchOf } from '../../core/handover/patch';
import { applyEdits, type Edit } from '../../core/fixes/edits';
import type { Fix, OfferContext } from '../../core/fixes/fix';
import { editedSite, sourceEdits } from '../imaging/editedSite';

/** A file that fixes change, with its place in the folder of results. */
export interface ChangedFile {
  readonly url: string;
  readonly path: string;
  readonly bytes: Uint8Array;
  /** As a unified diff; undefined for pictures and copies, which have none. */
  readonly patch?: string;
}

/** Files as fixes leave them, and what was left out. */
export interface ChangedFiles {
  readonly files: readonly ChangedFile[];
  readonly leftOut: readonly string[];
}

const MARK = '\ufeff';
const startsWithMark = (bytes: Uint8Array) => bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf;

/** Kinds of fix that make files anew. */
const REMADE: ReadonlySet<string> = new Set(['image-resize', 'font-convert', 'self-host']);

/**
 * What fixes make of the files of several captures: each file once, with the edits of all pages that load it. Written
 * are edits of source, pictures at their displayed size, fonts as WOFF 2, and copies of what is to be hosted by the site itself; what a
 * build or a server does (minifying, compressing, headers) is not.
 * @param wanted which fixes of a capture are applied
 */
export async function changedFiles(
  audits: readonly (OfferContext & { readonly fixes: readonly Fix[] })[],
  wanted: (fix: Fix) => boolean,
): Promise<ChangedFiles> {
  const sources = new Map<string, { readonly text: string; readonly edits: Edit[] }>();
  const made = new Map<string, ChangedFile>();
  const leftOut: string[] = [];
  for (const audit of audits) {
    const { page } = audit;
    const fixes = audit.fixes.filter(wanted);
    for (const [url, edits] of sourceEdits(fixes, audit)) {
      const load = page.loadOf(url);
      const bytes = load && page.bodies.bytes(load);
      const read = url === page.document?.url ? page.document.text : load && page.bodies.text(load);
      if (bytes === undefined || read === undefined) {
        leftOut.push(`${url}: its text was not captured.`);
        continue;
      }
      // What a byte order mark hides from a parser is part of the file all the same.
      const mark = startsWithMark(bytes) && !read.startsWith(MARK) ? MARK : '';
      const text = mark + read;
      const own = edits.map((e) => ({ ...e, start: e.start + mark.length, end: e.end + mark.length }));
      const known = sources.get(url);
      if (!Buffer.from(text).equals(bytes)) leftOut.push(`${url}: it is not UTF-8; its edits are to be made by hand.`);
      else if (!known) sources.set(url, { text, edits: own });
      else if (known.text === text) known.edits.push(...own);
      else leftOut.push(`${url}: another capture has another text of it; that one is written.`);
    }
    const remade = fixes.filter((f) => REMADE.has(f.kind));
    for (const { url, body } of (await editedSite(remade, audit)).files.values()) {
      if (sources.has(url)) continue;
      const load = page.loadOf(url);
      const before = load && page.bodies.bytes(load);
      if (!made.has(url) && !(before && body.equals(before)))
        made.set(url, { url, path: filePathOf(url), bytes: body });
    }
  }
  for (const [url, { text, edits }] of sources) {
    const path = filePathOf(url);
    const after = applyEdits(text, edits);
    if (after === text) continue;
    made.set(url, { url, path, bytes: new TextEncoder().encode(after), patch: patchOf(path, text, edits) });
  }
  const files = [...made.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
  return { files, leftOut: [...new Set(leftOut)] };
}
