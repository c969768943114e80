import fs from 'node:fs';
import net from 'node:net';
import path from 'node:path';
import { InputError } from '../../core/capture/errors';

/** The server that works on a data folder. */
interface RunningServer {
  readonly pid: number;
  readonly port: number;
}

const fileOf = (folder: string) => path.join(folder, 'server.json');

function read(folder: string): RunningServer | undefined {
  try {
    const value = JSON.parse(fs.readFileSync(fileOf(folder), 'utf8')) as Partial<RunningServer>;
    return Number.isInteger(value.pid) && Number.isInteger(value.port) ? (value as RunningServer) : undefined;
  } catch {
    return undefined;
  }
}

/**
 * Takes a data folder for a server of this process; given back when it ends. What a server left behind that was killed
 * does not count: nobody answers on its port.
 * @throws InputError when another server works on the folder
 */
export async function claimFolder(folder: string, port: number): Promise<void> {
  const other = read(folder);
  if (other && other.pid !== process.pid && isAlive(other.pid) && (await listens(other.port)))
    throw new InputError(
      `Another Keen Lens works on this data folder, at port ${other.port}.`,
      folder,
      `Open http://localhost:${other.port}/ or stop it first; or name another folder with --data.`,
    );
  fs.writeFileSync(fileOf(folder), JSON.stringify({ pid: process.pid, port } satisfies RunningServer), { mode: 0o600 });
  process.once('exit', () => {
    if (read(folder)?.pid === process.pid) fs.rmSync(fileOf(folder), { force: true });
  });
}

/** Ports on which our own servers listen: of this process, and of the one that works on a data folder. */
export function ownPorts(folder: string): number[] {
  const own = Number(process.env.PORT);
  return [
    ...new Set([...(own > 0 ? [own] : []), ...(read(folder)?.port === undefined ? [] : [read(folder)?.port ?? 0])]),
  ];
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

function listens(port: number): Promise<boolean> {
  return new Promise((done) => {
    const socket = net.connect({ host: '127.0.0.1', port, timeout: 2000 });
    const end = (value: boolean) => {
      socket.destroy();
      done(value);
    };
    socket.once('connect', () => end(true));
    socket.once('error', () => end(false));
    socket.once('timeout', () => end(false));
  });
}
