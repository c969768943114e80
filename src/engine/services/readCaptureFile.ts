import { createHash } from 'node:crypto';
import fs from 'node:fs';
import { pipeline } from 'node:stream/promises';
import zlib from 'node:zlib';
import { isWarc, pagesOfWarc } from '../../core/capture/archives/warc';
import { WarcAnswers } from '../../core/capture/archives/warcAnswers';
import { WarcRecords } from '../../core/capture/archives/warcRecords';
import { InputError } from '../../core/capture/errors';
import type { ReadCapture } from '../../core/capture/har';
import { readCaptures } from '../../core/capture/readers';
import { contentHash } from '../store/bodies';
import { storeFault } from '../store/faults';
import { CONTENT_DECODERS } from './contentDecoders';
import { openSpool } from './spool';

const MB = 1024 * 1024;
/** Largest file that is read into memory, after unpacking. */
export const MAX_FILE_BYTES = 512 * MB;
/** Largest web archive, which is read as a stream: as it lies on the disk, and unpacked. */
const MAX_ARCHIVE_BYTES = 2048 * MB;
const MAX_UNPACKED_BYTES = 4 * MAX_ARCHIVE_BYTES;
/** A larger record of a stream is passed over. */
const LARGEST_RECORD = 64 * MB;
/** Contents of all answers of an archive, decoded, that are put away on the disk; and those of its pages in memory. */
const MOST_SPOOLED = 4096 * MB;
const MOST_HELD = 512 * MB;

/** Largest file that may be handed in, told from its first bytes, with words for one that is larger. */
export interface FileLimit {
  readonly bytes: number;
  readonly words: string;
  readonly next: string;
}

const AS_WHOLE: FileLimit = {
  bytes: MAX_FILE_BYTES,
  words: '512 MB',
  next: 'Export fewer pages at a time. Only web archives (WARC) may have up to 2 GB.',
};
const AS_STREAM: FileLimit = { bytes: MAX_ARCHIVE_BYTES, words: '2 GB', next: 'Split the archive.' };

/** How large a file may be that begins with these bytes. */
export function fileLimit(first: Uint8Array): FileLimit {
  return isWarc(plainStart(first)) ? AS_STREAM : AS_WHOLE;
}

/** The first bytes of a file, without gzip. */
function plainStart(first: Uint8Array): Uint8Array {
  if (!isGzip(first)) return first;
  try {
    // A part of a stream unpacks as far as it goes.
    return zlib.gunzipSync(first.subarray(0, 4096), {
      finishFlush: zlib.constants.Z_SYNC_FLUSH,
      maxOutputLength: 8 * MB,
    });
  } catch {
    return first;
  }
}

const isGzip = (bytes: Uint8Array) => bytes[0] === 0x1f && bytes[1] === 0x8b;

/**
 * Reads the page loads of a file that is in memory.
 * @throws InputError for one that is too large, and as readCaptures does
 */
export function capturesIn(bytes: Uint8Array, fileName: string): ReadCapture[] {
  if (bytes.length > MAX_FILE_BYTES) throw tooLarge(AS_WHOLE, fileName);
  return readCaptures(unpackFile(bytes, fileName), fileName, CONTENT_DECODERS);
}

/**
 * Reads the page loads of a file on the disk. A web archive is read as a stream: neither it nor its contents have to fit
 * into memory, only what its pages fetch.
 * @throws InputError as readCaptures does
 */
export async function capturesOfFile(file: string, fileName: string): Promise<ReadCapture[]> {
  const limit = fileLimit(await startOf(file));
  const { size } = await fs.promises.stat(file);
  if (size > limit.bytes) throw tooLarge(limit, fileName);
  return limit === AS_STREAM ? streamArchive(file, fileName) : capturesIn(await fs.promises.readFile(file), fileName);
}

/** SHA-256 of a file as contentHash gives it of bytes. */
export async function hashOfFile(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of fs.createReadStream(file)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

function tooLarge(limit: FileLimit, fileName: string): InputError {
  return new InputError(`The file is larger than ${limit.words}.`, fileName, limit.next);
}

async function startOf(file: string): Promise<Uint8Array> {
  const handle = await fs.promises.open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(64 * 1024), 0, 64 * 1024, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/**
 * Unpacks gzip if need be.
 * @throws InputError for what is too large or broken.
 */
function unpackFile(bytes: Uint8Array, fileName: string): Uint8Array {
  if (!isGzip(bytes)) return bytes;
  try {
    return zlib.gunzipSync(bytes, { maxOutputLength: MAX_FILE_BYTES });
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    throw code === 'ERR_BUFFER_TOO_LARGE'
      ? new InputError('The file unpacks to more than 512 MB.', fileName, AS_WHOLE.next)
      : brokenGzip(fileName);
  }
}

function brokenGzip(fileName: string): InputError {
  return new InputError(
    'The file looks like gzip but cannot be unpacked.',
    fileName,
    'It may have been cut short: copy it again.',
  );
}

async function streamArchive(file: string, fileName: string): Promise<ReadCapture[]> {
  const spool = openSpool(MOST_SPOOLED);
  try {
    const answers = new WarcAnswers(CONTENT_DECODERS, (contents) => spool.put(contents));
    const records = new WarcRecords(fileName, LARGEST_RECORD);
    const take = async (chunks: AsyncIterable<Uint8Array>) => {
      let unpacked = 0;
      for await (const chunk of chunks) {
        unpacked += chunk.length;
        if (unpacked > MAX_UNPACKED_BYTES)
          throw new InputError('The archive unpacks to more than 8 GB.', fileName, AS_STREAM.next);
        for (const record of records.push(chunk)) answers.take(record);
      }
    };
    const source = fs.createReadStream(file, { highWaterMark: MB });
    if (isGzip(await startOf(file))) await pipeline(source, zlib.createGunzip({ chunkSize: MB }), take);
    else await pipeline(source, take);
    records.end();
    return heldPages(pagesOfWarc(answers, fileName));
  } catch (error) {
    if (/^Z_/.test((error as NodeJS.ErrnoException).code ?? '')) throw brokenGzip(fileName);
    throw storeFault(error, fileName) ?? error;
  } finally {
    spool.close();
  }
}

/** Pages with the contents that they share held once; as many as fit. */
function heldPages(pages: Iterable<ReadCapture[]>): ReadCapture[] {
  const held = new Map<string, Uint8Array>();
  const out: ReadCapture[] = [];
  let bytes = 0;
  let left = 0;
  for (const read of pages) {
    if (bytes > MOST_HELD) {
      left += read.length;
      continue;
    }
    for (const one of read) {
      const bodies = new Map<number, Uint8Array>();
      for (const [index, body] of one.bodies) {
        const hash = contentHash(body);
        const same = held.get(hash) ?? body;
        if (same === body) bytes += body.length;
        held.set(hash, same);
        bodies.set(index, same);
      }
      out.push({ ...one, bodies });
    }
  }
  if (left === 0) return out;
  const note = `What the pages of the archive fetch is more than 512 MB: the last ${left} pages were not examined.`;
  return out.map((one) => ({ ...one, capture: { ...one.capture, notes: [...one.capture.notes, note] } }));
}
