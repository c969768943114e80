import fs from 'node:fs/promises';
import { InvalidArgumentError } from 'commander';
import { InputError } from '../core/capture/errors';
import { parseVisitor, VISITORS, type Visitor } from '../core/load/visitors';
import type { Audited } from '../engine/services/importHar';

/** Collects an option that may be given several times. */
export function collect(value: string, before: string[] | undefined): string[] {
  return [...(before ?? []), value];
}

/** A whole number of at least `least`. */
export function wholeNumber(least: number): (text: string) => number {
  return (text) => {
    const n = Number(text);
    if (!Number.isInteger(n) || n < least) throw new InvalidArgumentError(`It takes a whole number from ${least} up.`);
    return n;
  };
}

/** Visitors by name or spec; all built-in ones when none is given. */
export function visitors(given: readonly string[] | undefined): Visitor[] {
  return given && given.length > 0 ? given.map(parseVisitor) : [...VISITORS];
}

/** Reads a capture file. @throws InputError that says what is wrong with the path. */
export async function readInput(file: string): Promise<Uint8Array> {
  try {
    return await fs.readFile(file);
  } catch (error) {
    throw unreadable(error, file);
  }
}

/**
 * Reads and examines the pages of a capture file.
 * @throws InputError for one that cannot be read, and for what is wrong in it
 */
export async function auditInput(file: string): Promise<Audited[]> {
  const { auditFile, auditHar } = await import('../engine/services/importHar');
  // What comes through a pipe is there once only.
  const isFile = await fs.stat(file).then(
    (s) => s.isFile(),
    () => false,
  );
  if (!isFile) return auditHar(await readInput(file), file);
  try {
    await fs.access(file, fs.constants.R_OK);
  } catch (error) {
    throw unreadable(error, file);
  }
  return auditFile(file, file);
}

function unreadable(error: unknown, file: string): InputError {
  const code = (error as NodeJS.ErrnoException).code;
  const what =
    code === 'ENOENT'
      ? 'There is no such file.'
      : code === 'EISDIR'
        ? 'This is a folder, not a file.'
        : `The file cannot be read (${code ?? 'unknown'}).`;
  return new InputError(what, file, 'Give the path of a capture: HAR, WARC, MHTML, a saved page.');
}

/** Prints one JSON document on standard output. */
export function printJson(value: unknown): void {
  process.stdout.write(JSON.stringify(value, null, 2) + '\n');
}

/** Progress goes to standard error, so that standard output stays clean. */
export function progress(text: string): void {
  process.stderr.write(text + '\n');
}

/** Headers of `--header 'Name: value'`. @throws InputError */
export function readHeaders(given: readonly string[] | undefined): Record<string, string> | undefined {
  if (!given) return undefined;
  return Object.fromEntries(
    given.map((line) => {
      const m = /^([!#$%&'*+.^_`|~0-9A-Za-z-]+):\s*(.*)$/.exec(line);
      if (!m?.[1]) throw new InputError(`"${line}" is not a header.`, '--header', "Write 'Name: value'.");
      return [m[1], m[2] ?? ''] as const;
    }),
  );
}

/** Name and password of `--basic-auth USER:PASS`. @throws InputError */
export function readAuth(given: string | undefined): { username: string; password: string } | undefined {
  if (given === undefined) return undefined;
  const colon = given.indexOf(':');
  if (colon < 1) throw new InputError('Name and password are not understood.', '--basic-auth', 'Write USER:PASS.');
  return { username: given.slice(0, colon), password: given.slice(colon + 1) };
}

/** Writes a file beside its place and renames it: nobody reads half of it. */
export async function writeWhole(file: string, content: string | Uint8Array, mode = 0o666): Promise<void> {
  await fs.writeFile(`${file}.part`, content, { mode });
  await fs.rename(`${file}.part`, file);
}
