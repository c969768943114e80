import os from 'node:os';

/** Where and when something was measured. */
export function machine(): string {
  return `${new Date().toISOString().slice(0, 10)}, ${os.cpus().length} cores (${os.cpus()[0]?.model ?? 'unknown'}), ${Math.round(os.totalmem() / 2 ** 30)} GiB, Node.js ${process.versions.node}`;
}
