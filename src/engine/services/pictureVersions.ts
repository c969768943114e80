import { zipSync } from 'fflate';
import { toCsv } from '../../core/handover/csv';
import { versionMarkup, versionName, type DrawnOn, type PictureVersion } from '../../core/pictures/versionMarkup';
import { makeVersions, type MadeVersions } from '../imaging/versions';
import { getBody } from '../store/bodies';
import { recordedCapture } from '../store/captures';
import { revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { heldFiles } from './sweepFiles';

/** A picture of a sweep beside its re-encoded versions. */
export interface VersionsOfPicture {
  readonly url: string;
  readonly bytes: number;
  readonly width: number;
  readonly height: number;
  readonly bodyHash: string;
  readonly drawn: readonly DrawnOn[];
  readonly versions: readonly PictureVersion[];
  /** Markup to paste. */
  readonly markup: string;
}

type Made = VersionsOfPicture & { readonly made: MadeVersions };

/** Pictures whose versions are at hand. */
const HELD = 8;
const held = new Map<string, Promise<Made | undefined>>();

/** Versions of a picture, really made; undefined for what is no picture of the sweep whose contents were recorded. */
export async function pictureVersions(store: Store, sweepId: number, url: string): Promise<Made | undefined> {
  const key = `${sweepId} ${await revisionOf(store, sweepId)} ${url}`;
  const known = held.get(key) ?? make(store, sweepId, url);
  held.delete(key);
  held.set(key, known);
  known.catch(() => held.delete(key));
  const [oldest] = held.keys();
  if (held.size > HELD && oldest !== undefined) held.delete(oldest);
  return known;
}

async function make(store: Store, sweepId: number, url: string): Promise<Made | undefined> {
  const drawn: DrawnOn[] = [];
  let hash: string | undefined;
  let alt: string | undefined;
  for (const device of ['phone', 'desktop'] as const) {
    const files = await heldFiles(store, sweepId, device);
    const file = files?.device === device ? files.files.find((f) => f.url === url) : undefined;
    if (!file) continue;
    hash ??= file.bodyHash;
    alt ??= file.alts.find((a) => a !== '');
    let largest: DrawnOn | undefined;
    for (const [captureId] of file.uses) {
      const capture = await recordedCapture(store, captureId);
      const { screenWidth = 0, density = 1 } = capture?.conditions ?? {};
      for (const p of capture?.observations?.pictures ?? [])
        if (p.url === url && p.visible && p.box.width * p.box.height > (largest ? largest.width * largest.height : 0))
          largest = { device, width: p.box.width, height: p.box.height, screenWidth, density };
    }
    if (largest) drawn.push(largest);
  }
  const bytes = hash === undefined ? undefined : await getBody(store, hash);
  const made = bytes && (await makeVersions(bytes, drawn));
  if (!bytes || !made || hash === undefined) return undefined;
  const versions = made.versions.map(({ content: _, ...version }) => version);
  return {
    url,
    bytes: bytes.length,
    width: made.width,
    height: made.height,
    bodyHash: hash,
    drawn,
    versions,
    markup: versionMarkup(url, alt, drawn, versions),
    made,
  };
}

/** The versions of a picture in a ZIP, with a list and the markup. */
export function versionsZip({ url, bytes, made, markup }: Made): Uint8Array {
  const list = toCsv(
    ['file', 'width', 'height', 'bytes', 'quality', 'similarity', 'original', 'original bytes'],
    made.versions.map((v) => [versionName(url, v), v.width, v.height, v.bytes, v.quality, v.similarity, url, bytes]),
  );
  const text = new TextEncoder();
  return zipSync(
    {
      ...Object.fromEntries(made.versions.map((v) => [versionName(url, v), new Uint8Array(v.content)])),
      'list.csv': text.encode(list),
      'markup.html': text.encode(`${markup}\n`),
    },
    { level: 0 },
  );
}
