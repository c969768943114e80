import fs from 'node:fs';
import { InputError } from '../../core/capture/errors';
import { importHar, type ImportResult } from '../services/importHar';
import { openStore } from '../store/store';

/** One import off the web process's main thread. */
export interface ImportTask {
  readonly data: string;
  readonly file: string;
  readonly fileName: string;
}

/** Errors cannot cross threads with their class: a user's error comes back as a value. */
export type ImportAnswer =
  | { readonly ok: true; readonly result: ImportResult }
  | { readonly ok: false; readonly what: string; readonly where: string; readonly next: string };

export default async function run(task: ImportTask): Promise<ImportAnswer> {
  const store = await openStore(task.data);
  try {
    return { ok: true, result: await importHar(store, fs.readFileSync(task.file), task.fileName) };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, what: error.what, where: error.where, next: error.next };
    throw error;
  } finally {
    await store.destroy();
  }
}
