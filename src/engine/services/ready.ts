import { sql } from 'kysely';
import fs from 'node:fs';
import path from 'node:path';
import { InputError } from '../../core/capture/errors';
import { startRunner, tick } from '../jobs/runner';
import { log } from '../log';
import { storeFault } from '../store/faults';
import { claimFolder } from '../store/serverLock';
import { DATABASE, dataFolder, TEMP, type Store } from '../store/store';
import { removeStrayUploads } from '../store/uploads';
import { removeStrayRecordings } from '../fleet/inbox';
import { removeStrayTaskFiles } from '../fleet/taskFiles';
import { startWatch } from '../watch/scheduler';
import { store } from './openedStore';

/** Databases up to this size are read through at start, to find damage before it is met. */
const CHECKED_BYTES = 256 << 20;
/** What was wrong is looked at again after so long. */
const AGAIN_MS = 3000;

let ready: Promise<InputError | undefined> | undefined;
let told = '';

/**
 * Makes the server ready once: takes the data folder, opens and checks the database, removes what an ended server left
 * behind, sets unfinished jobs going. Gives what is wrong, which is logged in one line; later calls look again.
 */
export function whatIsWrong(): Promise<InputError | undefined> {
  ready ??= start().catch((error: unknown) => {
    const fault =
      error instanceof InputError
        ? error
        : (storeFault(error, dataFolder()) ??
          new InputError(
            `The server cannot work: ${error instanceof Error ? error.message : String(error)}.`,
            dataFolder(),
            'The log of the server says more.',
          ));
    if (told !== fault.what) log.error(`${fault.what} Where: ${fault.where}. Next: ${fault.next}`);
    told = fault.what;
    setTimeout(() => (ready = undefined), AGAIN_MS).unref();
    return fault;
  });
  return ready;
}

async function start(): Promise<undefined> {
  const folder = dataFolder();
  const db = await store();
  await claimFolder(folder, Number(process.env.PORT) || 0);
  await check(db, path.join(folder, DATABASE));
  await removeStrayUploads(db, folder);
  await removeStrayRecordings(db);
  await removeStrayTaskFiles(db);
  fs.rmSync(path.join(folder, TEMP), { recursive: true, force: true });
  startRunner();
  startWatch(db, () => void tick());
  return undefined;
}

/** @throws InputError for a damaged database */
async function check(db: Store, file: string): Promise<void> {
  if (fs.statSync(file).size > CHECKED_BYTES) return;
  const { rows } = await sql<Record<string, string>>`pragma quick_check(1)`.execute(db);
  const answer = Object.values(rows[0] ?? {})[0];
  if (answer !== 'ok') throw storeFault({ code: 'SQLITE_CORRUPT' }, file) ?? new Error(answer);
}
