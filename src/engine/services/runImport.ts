import fs from 'node:fs/promises';
import { InputError } from '../../core/capture/errors';
import type { Wanted } from '../crawl/control';
import { jobInput, saveJobResult } from '../store/jobs';
import type { Store } from '../store/store';
import { importFile } from './importHar';
import type { JobContext } from './runSweep';

/** What a job of kind `import` is given: an uploaded file, kept until the job has ended. */
export interface ImportInput {
  readonly file: string;
  readonly fileName: string;
  /** The site that the captures become part of; the one that each page belongs to if not stated. */
  readonly siteId?: number;
}

/**
 * Imports an uploaded file. The file is removed in every case: it holds secrets that are cut only as it is read.
 * @throws InputError as importHar does
 */
export async function runImport(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<ImportInput>(store, jobId);
  if (!input) throw new Error(`job ${jobId} is gone`);
  context.onProgress({ done: 0, total: 1, failed: 0, now: [input.fileName], recent: [], counts: {} }, 'examining');
  try {
    await fs.access(input.file);
  } catch {
    throw new InputError('The uploaded file is gone.', input.fileName, 'Drop it again.');
  }
  try {
    const result = await importFile(store, input.file, input.fileName, { siteId: input.siteId });
    await saveJobResult(store, jobId, result);
  } finally {
    await fs.rm(input.file, { force: true });
  }
  return undefined;
}
