import fs from 'node:fs';
import fsp from 'node:fs/promises';
import { InputError } from '../../core/capture/errors';

/**
 * A text file that is written beside its name first, so that it is there whole or not at all.
 * @throws InputError when it cannot be written
 */
export function openText(file: string): {
  write(text: string, encoding?: BufferEncoding): void;
  end(): Promise<void>;
  discard(): Promise<void>;
} {
  const part = `${file}.part`;
  let handle: number;
  try {
    handle = fs.openSync(part, 'w');
  } catch (error) {
    throw new InputError(
      `The file cannot be written (${(error as NodeJS.ErrnoException).code ?? 'unknown'}).`,
      file,
      'Name a place that can be written.',
    );
  }
  let pending: Buffer[] = [];
  let size = 0;
  const flush = () => {
    if (size > 0) fs.writeSync(handle, Buffer.concat(pending));
    pending = [];
    size = 0;
  };
  return {
    write(text, encoding = 'utf8') {
      const bytes = Buffer.from(text, encoding);
      pending.push(bytes);
      size += bytes.length;
      if (size > 1 << 20) flush();
    },
    async end() {
      flush();
      fs.closeSync(handle);
      await fsp.rename(part, file);
    },
    async discard() {
      try {
        fs.closeSync(handle);
      } catch {
        // It was closed before.
      }
      await fsp.rm(part, { force: true });
    },
  };
}
