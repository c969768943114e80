import { randomUUID } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/** Contents put away in a file without a name until they are asked for. */
export interface Spool {
  /** Gives what gets them back; undefined where no more fit. @throws a fault of the disk as such */
  put(contents: Uint8Array): (() => Uint8Array) | undefined;
  close(): void;
}

/**
 * Opens a file in the folder for temporary files that nobody else can read and that is gone with the process: it may hold
 * secrets that are not cut yet.
 * @param most bytes that it may grow to
 */
export function openSpool(most: number): Spool {
  const file = path.join(os.tmpdir(), `keen-lens-${randomUUID()}.spool`);
  const handle = fs.openSync(file, 'wx+', 0o600);
  try {
    fs.rmSync(file);
  } catch {
    // Where an open file cannot be removed, close does it.
  }
  let end = 0;
  return {
    put(contents) {
      const at = end;
      if (at + contents.length > most) return undefined;
      for (let done = 0; done < contents.length;)
        done += fs.writeSync(handle, contents, done, contents.length - done, at + done);
      end += contents.length;
      const { length } = contents;
      return () => {
        const out = new Uint8Array(length);
        for (let done = 0; done < length;) {
          const read = fs.readSync(handle, out, done, length - done, at + done);
          if (read === 0) throw new Error('contents that were put away have gone');
          done += read;
        }
        return out;
      };
    },
    close() {
      fs.closeSync(handle);
      fs.rmSync(file, { force: true });
    },
  };
}
