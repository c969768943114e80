import fs from 'node:fs/promises';
import { setTimeout as pause } from 'node:timers/promises';
import { InputError } from '../../core/capture/errors';
import type { ImportResult } from '../services/importHar';
import { store } from '../services/openedStore';
import type { ImportInput } from '../services/runImport';
import { startImport } from '../services/startJobs';
import { findJob, jobResult } from '../store/jobs';
import type { Store } from '../store/store';
import { tick } from './runner';

/**
 * Imports an uploaded file as a job and waits for its end; the job goes on when the waiting stops.
 * @throws InputError as the import does
 */
export async function importUploaded(input: ImportInput): Promise<ImportResult> {
  const db = await store();
  try {
    return await imported(db, input);
  } catch (error) {
    // The job removes the file when it runs; one that never ran does not.
    await fs.rm(input.file, { force: true });
    throw error;
  }
}

async function imported(db: Store, input: ImportInput): Promise<ImportResult> {
  const { id } = await startImport(db, input);
  await tick();
  for (;;) {
    const job = await findJob(db, id);
    if (job?.error) throw new InputError(job.error.what, job.error.where, job.error.next);
    if (!job || job.state === 'cancelled')
      throw new InputError('The import was cancelled.', input.fileName, 'Drop the file again.');
    if (job.state === 'done') break;
    await pause(60);
  }
  const result = await jobResult<ImportResult>(db, id);
  if (!result) throw new Error(`import ${id} left no result`);
  return result;
}
