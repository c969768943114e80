import { Piscina } from 'piscina';
import { InputError } from '../../core/capture/errors';
import { folderOfStore } from '../store/location';
import type { Store } from '../store/store';
import { threadModule } from '../workers/codeFile';
import type { ReportMade, ReportTask } from '../workers/reportTask';

let threads: Piscina<ReportTask> | undefined;

/**
 * Makes a report in a thread of its own: forecasts of many pages take seconds, and the server has requests to answer.
 * @throws InputError as `reportedSweep` does
 */
export async function reportInThread(
  store: Store,
  task: Omit<ReportTask, 'data'>,
): Promise<{ readonly bytes: Uint8Array; readonly day: string }> {
  threads ??= new Piscina<ReportTask>({
    ...threadModule('reportTask'),
    // What the last report was made from is kept as long as the thread lives: not for ever.
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 30_000,
  });
  const made = (await threads.run({ ...task, data: await folderOfStore(store) })) as ReportMade;
  if ('fault' in made) throw new InputError(made.fault.what, made.fault.where, made.fault.next);
  return made;
}
