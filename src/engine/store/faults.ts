import { InputError } from '../../core/capture/errors';

/** What a fault of the database means, in words; undefined for one that is none of its own. */
export function storeFault(error: unknown, where = 'the data folder'): InputError | undefined {
  const code = (error as { code?: unknown } | undefined)?.code;
  if (typeof code !== 'string') return undefined;
  if (code === 'SQLITE_FULL' || code === 'ENOSPC')
    return new InputError(
      'The disk is full: nothing of this was stored, and what was stored before is kept.',
      where,
      'Free disk space, then try again.',
    );
  if (code.startsWith('SQLITE_CORRUPT') || code === 'SQLITE_NOTADB')
    return new InputError(
      'The database is damaged.',
      where,
      'Stop Keen Lens and put back a copy of keen-lens.db, or move it away to start anew; `sqlite3 keen-lens.db .recover` saves what can be read.',
    );
  if (code.startsWith('SQLITE_READONLY') || code === 'EACCES' || code === 'EROFS' || code === 'EPERM')
    return new InputError(
      'The data folder cannot be written.',
      where,
      'Give this user the right to write there, or name another folder with --data.',
    );
  if (code.startsWith('SQLITE_CANTOPEN') || code === 'ENOTDIR' || code === 'EEXIST')
    return new InputError(
      'The database cannot be opened: the data folder is no folder, or cannot be used.',
      where,
      'Check the folder and its rights, or name another with --data.',
    );
  if (code.startsWith('SQLITE_IOERR') || code === 'EIO')
    return new InputError(
      'The disk does not answer as it should.',
      where,
      'Check the disk; what was stored before is kept.',
    );
  if (code.startsWith('SQLITE_BUSY'))
    return new InputError(
      'Another program holds the database.',
      where,
      'End it, or wait until it has finished, then try again.',
    );
  return undefined;
}
