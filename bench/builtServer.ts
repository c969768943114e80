import { spawn, type ChildProcess } from 'node:child_process';
import path from 'node:path';
import serverEnv from '../scripts/serverEnv.json';
import { projectRoot } from '../src/engine/store/store';

/**
 * Starts the built application on loopback as `npm start` does, and waits until it listens.
 * @param data folder of its database
 * @param env variables besides
 */
export async function startBuiltServer(data: string, port: number, env: NodeJS.ProcessEnv = {}): Promise<ChildProcess> {
  const child = spawn(process.execPath, [path.join(projectRoot(), 'src/server/main.mjs')], {
    env: {
      ...serverEnv,
      ...process.env,
      HOST: '127.0.0.1',
      PORT: String(port),
      KEEN_LENS_DATA: data,
      KEEN_LENS_ROOT: projectRoot(),
      ...env,
    },
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  await new Promise((done) => child.once('message', done));
  return child;
}
