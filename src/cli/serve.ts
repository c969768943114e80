import { spawn } from 'node:child_process';
import path from 'node:path';
import { Command } from 'commander';
import { InputError } from '../core/capture/errors';
import { dataFolder, projectRoot } from '../engine/store/store';
import { accountsIn } from '../server/access/accountsExist';
import { wholeNumber } from './options';

/** `keen-lens serve`: the web application. */
export function serveCommand(): Command {
  return new Command('serve')
    .description('Serve the web application.')
    .option('--port <n>', 'port', wholeNumber(1), 4270)
    .option(
      '--host <address>',
      'address to listen on; beyond loopback people need accounts, or KEEN_LENS_PASSWORD',
      '127.0.0.1',
    )
    .option('--data <dir>', 'folder for the database')
    .addHelpText('after', '\nExample:\n  keen-lens serve --port 4270 --data ./audit-data')
    .action(async (flags: { port: number; host: string; data?: string }) => {
      const loopback = /^(127\.|localhost$|::1$)/.test(flags.host);
      if (!loopback && !process.env.KEEN_LENS_PASSWORD && !accountsIn(path.resolve(flags.data ?? dataFolder()))()) {
        throw new InputError(
          'Serving beyond this machine needs a password, or accounts.',
          `--host ${flags.host}`,
          'Make an account with keen-lens account add, or set KEEN_LENS_PASSWORD, and start again.',
        );
      }
      const args = [
        path.join(projectRoot(), 'scripts/start.mjs'),
        '--no-demo',
        '--port',
        String(flags.port),
        '--host',
        flags.host,
      ];
      if (flags.data) args.push('--data', path.resolve(flags.data));
      const child = spawn(process.execPath, args, { stdio: 'inherit' });
      process.on('SIGTERM', () => child.kill('SIGTERM'));
      await new Promise<void>((done) => child.on('exit', () => done()));
    });
}
