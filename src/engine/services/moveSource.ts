import fs from 'node:fs';
import fsp from 'node:fs/promises';
import path from 'node:path';
import zlib from 'node:zlib';
import { unzipSync, zipSync, type Zippable } from 'fflate';
import { InputError } from '../../core/capture/errors';
import { storeFault } from '../store/faults';

/** One file of what moves. */
export interface SourceFile {
  /** With forward slashes, below the folder or zip. */
  readonly path: string;
  readonly size: number;
  /** Why it is not read. */
  readonly skip?: string;
  head(): Promise<Buffer>;
  chunks(): AsyncIterable<Buffer>;
}

/** Where the changed copy goes. */
export interface MoveOutput {
  file(file: SourceFile): { write(bytes: Uint8Array): Promise<void>; end(): Promise<void> };
  /** Gives the copy its name. */
  finish(): Promise<void>;
  discard(): Promise<void>;
}

/** Largest zip, unpacked. */
const MOST_ZIP = 1024 * 1024 * 1024;
const HEAD = 8192;
const CHUNK = 1 << 18;

/** Every file of a folder, a zip, or the one file. Links are not followed; `.git` is left out. */
export async function* readSource(source: string): AsyncIterable<SourceFile> {
  const stat = await fsp.stat(source).catch((error: NodeJS.ErrnoException) => {
    throw new InputError(
      error.code === 'ENOENT' ? 'There is no such file or folder.' : `It cannot be read (${error.code ?? 'unknown'}).`,
      source,
      'Give a folder, a zip or a dump of the database.',
    );
  });
  if (stat.isDirectory()) {
    yield* filesOf(source, '');
    return;
  }
  if (stat.size === 0) throw new InputError('The file is empty.', source, 'Make the dump or the zip again.');
  const head = await headOf(source);
  if (head[0] === 0x50 && head[1] === 0x4b) yield* zipFiles(await fsp.readFile(source), source);
  else yield oneFile(source, path.basename(source), stat.size, head[0] === 0x1f && head[1] === 0x8b);
}

async function* filesOf(root: string, within: string): AsyncIterable<SourceFile> {
  const entries = await fsp.readdir(path.join(root, within), { withFileTypes: true });
  for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const name = within ? `${within}/${entry.name}` : entry.name;
    const full = path.join(root, name);
    if (entry.isDirectory() && entry.name !== '.git') yield* filesOf(root, name);
    else if (entry.isFile()) yield oneFile(full, name, (await fsp.stat(full)).size, false);
    else
      yield {
        ...oneFile(full, name, 0, false),
        skip: entry.name === '.git' ? 'history of versions' : 'a link or no file',
      };
  }
}

function oneFile(full: string, name: string, size: number, packed: boolean): SourceFile {
  const open = () => {
    const raw = fs.createReadStream(full, { highWaterMark: CHUNK });
    if (!packed) return raw;
    const plain = zlib.createGunzip({ chunkSize: CHUNK });
    raw.once('error', (error) => plain.destroy(error));
    return raw.pipe(plain);
  };
  return {
    path: packed ? name.replace(/\.gz$/i, '') : name,
    size,
    head: async () => {
      if (!packed) return headOf(full);
      for await (const chunk of open()) return (chunk as Buffer).subarray(0, HEAD);
      return Buffer.alloc(0);
    },
    async *chunks() {
      try {
        for await (const chunk of open()) yield chunk as Buffer;
      } catch (error) {
        if (/^Z_/.test((error as NodeJS.ErrnoException).code ?? ''))
          throw new InputError('The gzip file is damaged.', full, 'Make the dump again.');
        throw error;
      }
    },
  };
}

async function headOf(file: string): Promise<Buffer> {
  const handle = await fsp.open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(HEAD), 0, HEAD, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

function* zipFiles(bytes: Uint8Array, name: string): Iterable<SourceFile> {
  let files: Record<string, Uint8Array>;
  let size = 0;
  try {
    files = unzipSync(bytes, {
      filter: (file) => {
        size += file.originalSize;
        if (size > MOST_ZIP)
          throw new InputError('The zip holds more than 1 GB.', name, 'Unpack it and give the folder.');
        return true;
      },
    });
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError('The zip is damaged.', name, 'Make it again.');
  }
  for (const [inner, content] of Object.entries(files)) {
    // A folder, or a name that would lead out of the zip.
    const outside = inner.split(/[/\\]/).includes('..') || path.isAbsolute(inner);
    if (inner.endsWith('/')) continue;
    const buffer = Buffer.from(content.buffer, content.byteOffset, content.length);
    yield {
      path: inner,
      size: content.length,
      skip: outside ? 'its name leads out of the zip' : undefined,
      head: () => Promise.resolve(buffer.subarray(0, HEAD)),
      async *chunks() {
        yield buffer;
      },
    };
  }
}

/**
 * A place for the changed copy: of the same kind as the source, and never the source itself.
 * @throws InputError when something is there already, or inside of the source
 */
export async function startOutput(source: string, out: string): Promise<MoveOutput> {
  const stat = await fsp.stat(source).catch(() => undefined);
  const inside = path.relative(path.resolve(source), path.resolve(out));
  if (inside === '' || (stat?.isDirectory() && !inside.startsWith('..') && !path.isAbsolute(inside)))
    throw new InputError('The copy cannot lie in what it is a copy of.', out, 'Name another place with -o.');
  if (fs.existsSync(out))
    throw new InputError(
      'There is something at this place already.',
      out,
      'Name a new file or folder with -o: nothing is written over.',
    );
  const part = `${out}.part`;
  await fsp.rm(part, { recursive: true, force: true });
  const discard = () => fsp.rm(part, { recursive: true, force: true });
  const guarded = async <T>(work: Promise<T>): Promise<T> => {
    try {
      return await work;
    } catch (error) {
      throw storeFault(error, out) ? error : writeFault(error as NodeJS.ErrnoException, out);
    }
  };
  if (stat?.isDirectory()) {
    await guarded(fsp.mkdir(part, { recursive: true }));
    return {
      file(file) {
        const to = path.join(part, ...file.path.split('/'));
        return fileSink(to, guarded);
      },
      finish: () => guarded(fsp.rename(part, out)),
      discard,
    };
  }
  const head = stat ? await headOf(source) : Buffer.alloc(0);
  if (head[0] === 0x50 && head[1] === 0x4b) {
    const entries: Zippable = {};
    return {
      file(file) {
        const chunks: Uint8Array[] = [];
        return {
          write: (bytes) => Promise.resolve(void chunks.push(bytes)),
          end: () => Promise.resolve(void (entries[file.path] = Buffer.concat(chunks))),
        };
      },
      finish: async () => {
        await guarded(fsp.writeFile(part, zipSync(entries)));
        await guarded(fsp.rename(part, out));
      },
      discard,
    };
  }
  return {
    file: () => fileSink(part, guarded),
    finish: () => guarded(fsp.rename(part, out)),
    discard,
  };
}

function fileSink(to: string, guarded: <T>(work: Promise<T>) => Promise<T>): ReturnType<MoveOutput['file']> {
  const handle = guarded(fsp.mkdir(path.dirname(to), { recursive: true }).then(() => fsp.open(to, 'w')));
  return {
    write: async (bytes) => void (await guarded((await handle).writeFile(bytes))),
    end: async () => (await handle).close(),
  };
}

const writeFault = (error: NodeJS.ErrnoException, out: string) =>
  error.code === undefined
    ? error
    : new InputError(`The copy cannot be written (${error.code}).`, out, 'Name a place that can be written with -o.');
