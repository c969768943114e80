import fs from 'node:fs/promises';
import path from 'node:path';
import { Command, CommanderError } from 'commander';
import { InputError, PageError } from '../core/capture/errors';
import { storeFault } from '../engine/store/faults';
import { projectRoot } from '../engine/store/store';
import { accountCommand } from './account';
import { auditCommand } from './audit';
import { backupCommand, restoreCommand } from './backup';
import { compactCommand } from './compact';
import { demoCommand } from './demo';
import { entrancesCommand } from './entrances';
import { fatesCommand } from './fates';
import { forecastCommand } from './forecast';
import { gateCommand } from './gate';
import { proveCommand } from './prove';
import { recordCommand } from './record';
import { recorderCommand } from './recorder';
import { snippetCommand } from './snippet';
import { moveCommand } from './move';
import { reportCommand } from './report';
import { rulesCommand } from './rules';
import { serveCommand } from './serve';
import { sweepCommand } from './sweep';
import { tokenCommand } from './token';
import { watchCommand } from './watch';
import { FailedCheck, UsageError } from './usage';

/** Exit codes of the command line. */
export const EXIT = { done: 0, failedCheck: 1, usage: 2, badInput: 3, pageFailed: 4 } as const;

/** Runs the command line; returns its exit code. */
export async function main(argv: readonly string[]): Promise<number> {
  const version = JSON.parse(await fs.readFile(path.join(projectRoot(), 'package.json'), 'utf8')) as {
    version: string;
  };
  const program = new Command('keen-lens')
    .description('Finds what is insecure or slow in captured pages and forecasts what each fix would save.')
    .version(version.version)
    .exitOverride()
    .showHelpAfterError('(--help shows how)');
  for (const add of [
    sweepCommand,
    recordCommand,
    auditCommand,
    forecastCommand,
    proveCommand,
    gateCommand,
    reportCommand,
    entrancesCommand,
    fatesCommand,
    rulesCommand,
    moveCommand,
    watchCommand,
    recorderCommand,
    snippetCommand,
    serveCommand,
    accountCommand,
    tokenCommand,
    backupCommand,
    restoreCommand,
    compactCommand,
    demoCommand,
  ]) {
    program.addCommand(add().exitOverride().showHelpAfterError('(--help shows how)'));
  }
  try {
    await program.parseAsync([...argv]);
    return EXIT.done;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.usage;
    if (error instanceof FailedCheck) return EXIT.failedCheck;
    if (error instanceof UsageError) {
      console.error(error.message);
      return EXIT.usage;
    }
    if (error instanceof InputError) {
      console.error(`${error.what}\n  where: ${error.where}\n  next:  ${error.next}`);
      return error instanceof PageError ? EXIT.pageFailed : EXIT.badInput;
    }
    const fault = storeFault(error);
    if (!fault) throw error;
    console.error(`${fault.what}\n  where: ${fault.where}\n  next:  ${fault.next}`);
    return EXIT.badInput;
  }
}
