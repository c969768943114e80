import type { LoadKind } from '../capture/capture';
import type { SweepFile } from './files';

/**
 * Files of a sweep in few bytes: every text that may stand in many of them is kept once. A site of ten thousand pages
 * has a hundred thousand files.
 */
export interface PackedFiles {
  readonly texts: readonly string[];
  readonly rows: readonly PackedFile[];
}

/** A text, by its place among all texts; -1 for none. */
type Text = number;
type Maybe = number | null;

type PackedFile = readonly [
  url: string,
  texts: readonly [
    host: Text,
    folder: Text,
    kind: Text,
    type: Text,
    protocol: Text,
    encoding: Text,
    why: Text,
    body: Text,
  ],
  lists: readonly [drawn: readonly Text[], alts: readonly Text[]],
  thirdParty: 0 | 1,
  numbers: readonly [
    status: number,
    bytes: number,
    decodedBytes: number,
    delivered: number,
    needed: number,
    place: number,
    again: number,
  ],
  perhaps: readonly [freshS: Maybe, usedShare: Maybe],
  uses: SweepFile['uses'],
];

/** Packs files; a pure function. */
export function packFiles(files: readonly SweepFile[]): PackedFiles {
  const places = new Map<string, number>();
  const text = (value: string | undefined): Text => {
    if (value === undefined) return -1;
    const known = places.get(value);
    if (known !== undefined) return known;
    places.set(value, places.size);
    return places.size - 1;
  };
  const rows = files.map((f): PackedFile => [
    f.url,
    [
      text(f.host),
      text(f.folder),
      text(f.kind),
      text(f.type),
      text(f.protocol),
      text(f.encoding),
      text(f.why),
      text(f.bodyHash),
    ],
    [f.drawn.map(text), f.alts.map(text)],
    f.thirdParty ? 1 : 0,
    [f.status, f.bytes, f.decodedBytes, f.delivered, f.needed, f.place, f.again],
    [f.freshS ?? null, f.usedShare ?? null],
    f.uses,
  ]);
  return { texts: [...places.keys()], rows };
}

/** The files that were packed: texts that are alike are one. */
export function unpackFiles({ texts, rows }: PackedFiles): SweepFile[] {
  const text = (at: Text): string => texts[at] ?? '';
  return rows.map(
    ([url, [host, folder, kind, type, protocol, encoding, why, body], [drawn, alts], third, n, perhaps, uses]) => {
      const [status, bytes, decodedBytes, delivered, needed, place, again] = n;
      const [freshS, usedShare] = perhaps;
      return {
        url,
        host: text(host),
        folder: text(folder),
        kind: text(kind) as LoadKind,
        type: text(type),
        status,
        protocol: text(protocol) as SweepFile['protocol'],
        ...(encoding >= 0 && { encoding: text(encoding) }),
        thirdParty: third === 1,
        bytes,
        decodedBytes,
        delivered,
        needed,
        ...(why >= 0 && { why: text(why) }),
        ...(freshS !== null && { freshS }),
        drawn: drawn.map(text),
        alts: alts.map(text),
        place,
        ...(usedShare !== null && { usedShare }),
        ...(body >= 0 && { bodyHash: text(body) }),
        again,
        uses,
      };
    },
  );
}
