import { isMhtml, readMhtml } from './archives/mhtml';
import { isSavedPage, readSavedPage } from './archives/savedPage';
import { isWarc, readWarc } from './archives/warc';
import { filesOfZip, isZip } from './archives/zip';
import type { Decoders } from './decoders';
import { InputError } from './errors';
import { strangeKind } from './fileKind';
import { readHar, type ReadCapture } from './har';
import { joinLoads } from './joinLoads';
import { isPageEntries, readPageEntries } from './pageEntries';

/** Reads one kind of file that holds recorded page loads. */
export interface CaptureReader {
  /** What the kind is called, for messages. */
  readonly name: string;
  /** True for a file that looks like it by its contents; its name does not count. */
  recognises(bytes: Uint8Array): boolean;
  /** @throws InputError saying what is wrong, and where */
  read(bytes: Uint8Array, fileName: string, decoders: Decoders): ReadCapture[];
}

const HAR: CaptureReader = {
  name: 'HAR',
  recognises: (bytes) => strangeKind(bytes) === undefined,
  read: (bytes, fileName) => readHar(bytes, fileName),
};
const WARC: CaptureReader = { name: 'WARC', recognises: isWarc, read: readWarc };
const MHTML: CaptureReader = { name: 'MHTML', recognises: isMhtml, read: readMhtml };
const SAVED_PAGE: CaptureReader = {
  name: 'saved HTML page',
  recognises: isSavedPage,
  read: (bytes, fileName) => readSavedPage(bytes, fileName),
};
const PAGE_ENTRIES: CaptureReader = {
  name: 'file of the console snippet',
  recognises: isPageEntries,
  read: readPageEntries,
};
const ZIP: CaptureReader = { name: 'ZIP of these', recognises: isZip, read: readZip };

/** Every kind of capture file that is read: a new one is a file of its own and a line here. */
const READERS: readonly CaptureReader[] = [WARC, MHTML, SAVED_PAGE, ZIP, PAGE_ENTRIES, HAR];

/**
 * Reads the page loads of a file, whichever kind it is by its contents.
 * @param decoders for contents that an archive has as they were sent
 * @throws InputError for a file of no kind that is read, and for a broken one
 */
export function readCaptures(bytes: Uint8Array, fileName = 'file', decoders: Decoders = {}): ReadCapture[] {
  if (bytes.length === 0)
    throw new InputError('The file is empty (0 bytes).', fileName, 'Export the HAR again and check its size.');
  const reader = READERS.find((r) => r.recognises(bytes));
  if (reader) return reader.read(bytes, fileName, decoders);
  throw new InputError(
    `This is ${strangeKind(bytes) ?? 'no capture'}, not a ${READERS.map((r) => r.name).join(', ')}.`,
    fileName,
    'Export the load as HAR from the network panel of a browser, or record the page here.',
  );
}

/** Captures of an archive, else its saved pages with the files beside them. */
function readZip(bytes: Uint8Array, fileName: string, decoders: Decoders): ReadCapture[] {
  const files = filesOfZip(bytes, fileName);
  const inside = (name: string) => `${fileName}, ${name}`;
  // What a page told in a console may belong to a HAR beside it.
  const told = [...files]
    .filter(([, body]) => isPageEntries(body))
    .flatMap(([name, body]) => readPageEntries(body, inside(name)));
  const recorded = [...files].flatMap(([name, body]) => {
    const reader = body.length > 0 && [WARC, MHTML].find((r) => r.recognises(body));
    const isHar = /^\s*\{[\s\S]{0,400}"log"/.test(
      String.fromCharCode(...body.subarray(0, 500)).replace(/^\xef\xbb\xbf/, ''),
    );
    return reader ? reader.read(body, inside(name), decoders) : isHar ? readHar(body, inside(name)) : [];
  });
  const captures = joinLoads(recorded, told);
  if (captures.length > 0) return captures;
  // The pages nearest to the top: what lies in their folders is theirs.
  const pages = [...files].filter(([, body]) => isSavedPage(body)).sort(([a], [b]) => depth(a) - depth(b));
  const top = pages.filter(([name]) => depth(name) === depth(pages[0]?.[0] ?? ''));
  if (top.length === 0)
    throw new InputError(
      'The archive holds no capture and no saved page.',
      fileName,
      'Pack HAR, WARC or MHTML files, a file of the console snippet, or a saved page with its folder.',
    );
  return top.flatMap(([name, body]) => {
    const folder = name.slice(0, name.lastIndexOf('/') + 1);
    const beside = new Map(
      [...files].flatMap(([other, content]) =>
        other !== name && other.startsWith(folder) ? [[other.slice(folder.length), content] as const] : [],
      ),
    );
    return readSavedPage(body, inside(name), beside);
  });
}

const depth = (name: string) => name.split('/').length;
