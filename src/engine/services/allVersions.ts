import { Zip, ZipPassThrough } from 'fflate';
import { toCsv } from '../../core/handover/csv';
import type { SweepFile } from '../../core/pictures/files';
import { versionName } from '../../core/pictures/versionMarkup';
import type { Store } from '../store/store';
import { pictureVersions } from './pictureVersions';
import { heldFiles } from './sweepFiles';

/** Pictures of one archive at most: those that save most come first. */
export const MOST_PICTURES = 100;
/** A picture that could lose less than this is left as it is, in bytes. */
const LEAST_SAVED = 4096;

/** Own pictures of a sweep that are larger than needed, those that save most first. */
export async function savingPictures(store: Store, sweepId: number): Promise<string[]> {
  const saved = new Map<string, number>();
  for (const device of ['phone', 'desktop'] as const) {
    const files = await heldFiles(store, sweepId, device);
    if (files?.device !== device) continue;
    for (const file of files.files) if (isSaving(file)) saved.set(file.url, (saved.get(file.url) ?? 0) + savedBy(file));
  }
  return [...saved]
    .sort((a, b) => b[1] - a[1])
    .map(([url]) => url)
    .slice(0, MOST_PICTURES);
}

const savedBy = (file: SweepFile) => file.delivered - file.needed;
const isSaving = (file: SweepFile) =>
  file.kind === 'image' && !file.thirdParty && file.bodyHash !== undefined && savedBy(file) >= LEAST_SAVED;

/**
 * A ZIP of the re-encoded versions of those pictures in folders named after host and path, with a list and the markup of
 * each; made picture by picture while it is sent. A reader that goes away ends it.
 */
export function allVersions(store: Store, sweepId: number, urls: readonly string[]): ReadableStream<Uint8Array> {
  let gone = false;
  return new ReadableStream<Uint8Array>({
    async start(controller) {
      const zip = new Zip((error, chunk, final) => {
        if (gone) return;
        if (error) controller.error(error);
        else controller.enqueue(chunk);
        if (final) controller.close();
      });
      const add = (name: string, content: Uint8Array) => {
        const file = new ZipPassThrough(name);
        zip.add(file);
        file.push(content, true);
      };
      const rows: (string | number | undefined)[][] = [];
      const markup: string[] = [];
      try {
        for (const url of urls) {
          if (gone) return;
          const found = await pictureVersions(store, sweepId, url);
          if (!found || found.made.versions.length === 0) continue;
          const folder = folderFor(url);
          for (const v of found.made.versions) {
            const name = `${folder}${versionName(url, v)}`;
            add(name, new Uint8Array(v.content));
            rows.push([name, v.width, v.height, v.bytes, v.quality, v.similarity, url, found.bytes]);
          }
          markup.push(`<!-- ${url.replaceAll('--', '%2D%2D')} -->\n${found.markup}\n`);
        }
        const text = new TextEncoder();
        const columns = ['file', 'width', 'height', 'bytes', 'quality', 'similarity', 'original', 'original bytes'];
        add('list.csv', text.encode(toCsv(columns, rows)));
        add('markup.html', text.encode(markup.join('\n')));
        zip.end();
      } catch (error) {
        if (!gone) controller.error(error);
      }
    },
    cancel() {
      gone = true;
    },
  });
}

/** Host and folder of an address as a path within the archive: never above it. */
function folderFor(address: string): string {
  const { hostname, pathname } = new URL(address);
  const parts = [hostname, ...pathname.split('/').slice(0, -1)];
  return parts
    .map((p) => p.replace(/[^\w.-]+/g, '-').replace(/^\.+/, ''))
    .filter(Boolean)
    .map((p) => `${p}/`)
    .join('');
}
