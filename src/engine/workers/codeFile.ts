import { createRequire } from 'node:module';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { projectRoot } from '../store/store';

const self = fileURLToPath(import.meta.url);

/** Whether this code was built into `dist/`; else it runs from its TypeScript, as in tests and development. */
const built = path.relative(projectRoot(), self).split(path.sep)[0] === 'dist';

/** The module of a thread: what piscina loads, and the export that it calls. */
export function threadModule(task: 'jobTask' | 'sweepTask' | 'reportTask'): { filename: string; name: string } {
  const file = built ? `dist/node/${task}.js` : `src/engine/workers/${task.replace('Task', 'Worker')}.mjs`;
  return { filename: path.join(projectRoot(), file), name: 'runTask' };
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
