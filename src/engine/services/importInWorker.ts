import path from 'node:path';
import { Piscina } from 'piscina';
import { InputError } from '../../core/capture/errors';
import { dataFolder, projectRoot } from '../store/store';
import type { ImportAnswer, ImportTask } from '../workers/importWorker';
import type { ImportResult } from './importHar';

let pool: Piscina<ImportTask, ImportAnswer> | undefined;

/**
 * Imports a file of the disk in a worker thread, so that a large one does not hold up the server.
 * @throws InputError as importHar does.
 */
export async function importInWorker(file: string, fileName: string): Promise<ImportResult> {
  pool ??= new Piscina<ImportTask, ImportAnswer>({
    filename: path.join(projectRoot(), 'src/engine/workers/importWorker.ts'),
    execArgv: ['--import', 'tsx'],
    maxThreads: 1,
    idleTimeout: 30_000,
  });
  const answer = await pool.run({ data: dataFolder(), file, fileName });
  if (!answer.ok) throw new InputError(answer.what, answer.where, answer.next);
  return answer.result;
}
