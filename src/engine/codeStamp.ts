import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { projectRoot } from './store/store';

let stamp: string | undefined;

/**
 * Tells one state of `src/core` from another: figures that another state of the load model has worked out are not those
 * of this one. Read once a process.
 */
export function codeStamp(): string {
  return (stamp ??= stampOf(path.join(projectRoot(), 'src/core')));
}

/** Short hash of all files of a folder. */
export function stampOf(folder: string): string {
  const hash = createHash('sha256');
  for (const name of fs.readdirSync(folder, { recursive: true, encoding: 'utf8' }).sort())
    if (name.endsWith('.ts')) hash.update(name).update(fs.readFileSync(path.join(folder, name)));
  return hash.digest('base64url').slice(0, 10);
}
