import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { InputError } from '../../core/capture/errors';
import { folderOfStore } from './location';
import type { Store } from './store';

/** Name of the key file beside the database. */
export const KEY_FILE = 'secrets.key';

const MARK = 'sealed:1:';
const keys = new Map<string, Buffer>();

/** Encrypts what must be kept but not read by whoever gets the database alone. */
export interface Sealer {
  /** AES-256-GCM under the key of the data folder, as text. */
  seal(text: string): string;
  /** The text again; what was stored before there was a key comes back as it is. @throws InputError without its key */
  open(stored: string): string;
  /** The same for bytes. */
  sealBytes(bytes: Uint8Array): Buffer;
  openBytes(sealed: Uint8Array): Buffer;
}

/** The sealer of a database, by the key file in its folder; made when absent, readable by its owner only. */
export async function sealerOf(store: Store): Promise<Sealer> {
  const folder = await folderOfStore(store);
  const key = keyOf(folder);
  const sealBytes = (bytes: Uint8Array): Buffer => {
    const iv = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', key, iv);
    const sealed = Buffer.concat([cipher.update(bytes), cipher.final()]);
    return Buffer.concat([iv, cipher.getAuthTag(), sealed]);
  };
  const openBytes = (bytes: Uint8Array): Buffer => {
    try {
      const decipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, 12));
      decipher.setAuthTag(bytes.subarray(12, 28));
      return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]);
    } catch {
      throw new InputError(
        'What was stored encrypted cannot be read: the key file is not the one it was written with.',
        path.join(folder, KEY_FILE),
        'Put the key file back that belongs to this database, or enter headers and password again.',
      );
    }
  };
  return {
    seal: (text) => MARK + sealBytes(Buffer.from(text)).toString('base64'),
    open: (stored) =>
      stored.startsWith(MARK) ? openBytes(Buffer.from(stored.slice(MARK.length), 'base64')).toString('utf8') : stored,
    sealBytes,
    openBytes,
  };
}

/** A name of a database that stays with it, and that nobody can guess. */
export async function nameOfStore(store: Store): Promise<string> {
  const key = keyOf(await folderOfStore(store));
  return createHmac('sha256', key).update('name of the store').digest('hex').slice(0, 16);
}

function keyOf(folder: string): Buffer {
  const known = keys.get(folder);
  if (known) return known;
  const file = path.join(folder, KEY_FILE);
  try {
    // `wx`: of two processes that start at once, one makes the key and the other reads it.
    fs.writeFileSync(file, randomBytes(32).toString('base64'), { flag: 'wx', mode: 0o600 });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  }
  const key = Buffer.from(fs.readFileSync(file, 'utf8'), 'base64');
  if (key.length !== 32)
    throw new InputError(
      'The key file is damaged.',
      file,
      'Put back a copy of it, or delete it and enter secrets again.',
    );
  keys.set(folder, key);
  return key;
}
