import { createRequire } from 'node:module';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { projectRoot } from '../store/store';

const self = fileURLToPath(import.meta.url);

/** Whether this code was built into `dist/`; else it runs from its TypeScript, as in tests and development. */
const built = path.relative(projectRoot(), self).split(path.sep)[0] === 'dist';

/** What a thread does. */
type ThreadTask = 'jobTask' | 'sweepTask' | 'reportTask';

/**
 * What a thread's heap may come to, in MiB. The lower its limit, the sooner V8 clears up: at twice what is alive below two
 * gigabytes, at four times above. The owner's report of 776 pages takes 554 MiB without a limit, 371 with one of 1,900 and
 * 338 with one of 1,024, as fast (30 November 2026); less than 200 of it is alive, and no more than 120 pages are in one.
 */
const MOST_HEAP_MB: Readonly<Record<ThreadTask, number>> = { jobTask: 1900, sweepTask: 1900, reportTask: 1024 };

/** What piscina needs for a thread: the module that it loads, the export that it calls, and its limits. */
interface Thread {
  readonly filename: string;
  readonly name: string;
  readonly resourceLimits: { readonly maxOldGenerationSizeMb: number };
}

/** The thread of a kind of task. */
export function threadModule(task: ThreadTask): Thread {
  const file = built ? `dist/node/${task}.js` : `src/engine/workers/${task.replace('Task', 'Worker')}.mjs`;
  return {
    filename: path.join(projectRoot(), file),
    name: 'runTask',
    resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB[task] },
  };
}

/** The module of the process that replays pages, with what node needs to load it. */
export function replayModule(): { filename: string; execArgv: string[] } {
  return built
    ? { filename: path.join(projectRoot(), 'dist/node/replayProcess.js'), execArgv: [] }
    : {
        filename: path.join(projectRoot(), 'src/engine/replay/replayProcess.ts'),
        execArgv: ['--import', createRequire(import.meta.url).resolve('tsx')],
      };
}
