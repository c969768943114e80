import path from 'node:path';
import { domainToASCII } from 'node:url';
import { InputError } from '../../core/capture/errors';
import { hostForms } from '../../core/site/entrances';
import { FORMS, MentionFinder, type MentionForm, type MoveTarget, type TextKind } from '../../core/move/mentions';
import { rewriteSql, rewriteText, type Rewrite } from '../../core/move/rewrite';
import { withChanges } from '../../core/move/serialized';
import { dialectOf, looksLikeSql, scanSql } from '../../core/move/sql';
import { UnifiedDiff } from '../../core/move/unifiedDiff';
import { openText } from './openText';
import { readSource, startOutput, type MoveOutput, type SourceFile } from './moveSource';

/** Places that a report holds at most; counts are of all. */
export const MOST_PLACES = 10_000;
/** Largest file besides a dump, which is read in pieces. */
const MOST_BYTES = 64 * 1024 * 1024;
/** Longest line of a dump that is kept at a time. */
const MOST_CARRY = 128 * 1024 * 1024;
const EXCERPT = 80;

/** What a move is asked to do. */
export interface MoveTask {
  /** A folder, a zip or a file. */
  readonly source: string;
  readonly from: readonly string[];
  /** `https`, or the origin that all hosts get. */
  readonly to: string;
  /** Where the changed copy goes; undefined for a dry run. */
  readonly out?: string;
  /** Where the unified diff goes. */
  readonly patch?: string;
  readonly onProgress?: (files: number, now: string) => void;
  readonly signal?: AbortSignal;
}

export interface FoundPlace {
  readonly path: string;
  readonly line: number;
  /** Counts characters of the file as bytes, from 1. */
  readonly column: number;
  readonly form: MentionForm;
  readonly before: string;
  readonly after: string | null;
  readonly refused: string | null;
  /** What stands around it. */
  readonly excerpt: string;
}

/** What a dry run found, or a move has done. */
export interface MoveReport {
  readonly dryRun: boolean;
  readonly from: readonly string[];
  readonly to: string;
  readonly files: readonly {
    readonly path: string;
    readonly changes: number;
    readonly refused: number;
    readonly forms: Readonly<Partial<Record<MentionForm, number>>>;
    /** Serialised strings whose length was wrong before. */
    readonly brokenLengths: number;
  }[];
  readonly filesRead: number;
  readonly totals: { readonly changes: number; readonly refused: number; readonly lengths: number } & {
    readonly forms: Readonly<Record<MentionForm, number>>;
  };
  readonly places: readonly FoundPlace[];
  readonly placesLeftOut: number;
  readonly notExamined: readonly { readonly path: string; readonly why: string }[];
  readonly out: string | null;
  readonly undo: string | null;
}

/**
 * Replaces http addresses of a site in a copy of files or a dump of its database, or says what it would do.
 * @throws InputError for a source that cannot be read, hosts that are none and a target that is there already
 */
export async function moveFiles(task: MoveTask): Promise<MoveReport> {
  const target = targetOf(task);
  const finder = new MentionFinder(target);
  const patch = task.patch === undefined ? undefined : openText(task.patch);
  const output =
    task.out === undefined
      ? undefined
      : await startOutput(task.source, task.out).catch(async (error: unknown) => {
          await patch?.discard();
          throw error;
        });
  const undo = output && openText(`${task.out}.undo.jsonl`);
  const files: MoveReport['files'][number][] = [];
  const places: FoundPlace[] = [];
  const notExamined: { path: string; why: string }[] = [];
  const forms = Object.fromEntries(FORMS.map((f) => [f, 0])) as Record<MentionForm, number>;
  const totals = { changes: 0, refused: 0, lengths: 0 };
  let left = 0;
  let read = 0;
  try {
    undo?.write(
      JSON.stringify({
        of: path.basename(task.source),
        from: task.from,
        to: task.to,
        offsets: 'bytes of the changed file',
      }) + '\n',
    );
    for await (const file of readSource(task.source)) {
      task.signal?.throwIfAborted();
      task.onProgress?.(++read, file.path);
      if (file.skip) {
        notExamined.push({ path: file.path, why: file.skip });
        continue;
      }
      const own = { changes: 0, refused: 0, brokenLengths: 0, forms: {} as Partial<Record<MentionForm, number>> };
      const diff = patch && new UnifiedDiff(file.path, (text) => patch.write(text, 'latin1'));
      const why = await rewriteFile(file, finder, output, {
        diff,
        signal: task.signal,
        onRewrite(rewrite, text, firstLine, shift) {
          const lines = new LineCounter(text, firstLine);
          for (const p of rewrite.places) {
            own.forms[p.form] = (own.forms[p.form] ?? 0) + 1;
            forms[p.form]++;
            if (p.after === undefined) own.refused++;
            else own.changes++;
            if (places.length >= MOST_PLACES) left++;
            else places.push(shownPlace(file.path, p, text, lines));
          }
          own.brokenLengths += rewrite.broken;
          totals.lengths += rewrite.changes.length - rewrite.places.filter((p) => p.after !== undefined).length;
          if (!undo) return;
          let grown = shift;
          for (const c of rewrite.changes) {
            undo.write(
              JSON.stringify({ path: file.path, at: c.start + grown, now: c.text, was: text.slice(c.start, c.end) }) +
                '\n',
            );
            grown += c.text.length - (c.end - c.start);
          }
        },
      });
      diff?.end();
      if (why) notExamined.push({ path: file.path, why });
      totals.changes += own.changes;
      totals.refused += own.refused;
      if (own.changes + own.refused > 0) files.push({ path: file.path, ...own });
    }
    await patch?.end();
    await undo?.end();
    await output?.finish();
  } catch (error) {
    await output?.discard();
    await patch?.discard();
    await undo?.discard();
    throw error;
  }
  return {
    dryRun: !output,
    from: target.hosts,
    to: task.to,
    files,
    filesRead: read,
    totals: { ...totals, forms },
    places,
    placesLeftOut: left,
    notExamined,
    out: task.out ?? null,
    undo: output ? `${task.out}.undo.jsonl` : null,
  };
}

interface FileContext {
  readonly signal: AbortSignal | undefined;
  readonly diff: UnifiedDiff | undefined;
  /**
   * @param firstLine number of the first line of the text
   * @param shift where the text begins in the changed file
   */
  onRewrite(rewrite: Rewrite, text: string, firstLine: number, shift: number): void;
}

/** Rewrites one file; returns why it was left as it is, if it was. */
async function rewriteFile(
  file: SourceFile,
  finder: MentionFinder,
  output: MoveOutput | undefined,
  context: FileContext,
): Promise<string | undefined> {
  const head = await file.head();
  const kind = kindOf(file.path, head);
  const sink = output?.file(file);
  if (kind === 'sql') {
    await rewriteDump(file, head, finder, sink, context);
    await sink?.end();
    return undefined;
  }
  const copy = async (why: string | undefined) => {
    if (sink) for await (const chunk of file.chunks()) await sink.write(chunk);
    await sink?.end();
    return why;
  };
  if (file.size > MOST_BYTES) return copy('larger than 64 MB and no dump of a database');
  const chunks: Buffer[] = [];
  for await (const chunk of file.chunks()) chunks.push(chunk);
  const bytes = Buffer.concat(chunks);
  if (kind === 'binary') {
    await sink?.write(bytes);
    await sink?.end();
    if (isUtf16(bytes))
      return finder.mayHold(bytes.toString('utf16le'))
        ? 'text in UTF-16 that names the site: save it as UTF-8 first'
        : undefined;
    return finder.mayHold(bytes.toString('latin1'))
      ? 'not a text file, but it names the site: only people can change it'
      : undefined;
  }
  const text = bytes.toString('latin1');
  const rewrite = rewriteText(text, kind, finder);
  context.onRewrite(rewrite, text, 1, 0);
  const after = withChanges(text, rewrite.changes);
  if (context.diff && rewrite.changes.length > 0) diffLines(context.diff, text, after);
  await sink?.write(rewrite.changes.length > 0 ? Buffer.from(after, 'latin1') : bytes);
  await sink?.end();
  return undefined;
}

/** A dump is read in pieces that end outside of its strings, so that it may be of any size. */
async function rewriteDump(
  file: SourceFile,
  head: Buffer,
  finder: MentionFinder,
  sink: { write(bytes: Uint8Array): Promise<void> } | undefined,
  context: FileContext,
): Promise<void> {
  const dialect = dialectOf(head.toString('latin1'));
  let carry = '';
  let state = { copying: false };
  let line = 1;
  let written = 0;
  const step = async (last: boolean) => {
    const scan = scanSql(carry, dialect, state, last);
    state = scan.state;
    if (scan.upTo === 0) return;
    const text = carry.slice(0, scan.upTo);
    const rewrite = rewriteSql(text, scan.pieces, finder);
    context.onRewrite(rewrite, text, line, written);
    const after = withChanges(text, rewrite.changes);
    if (context.diff) diffLines(context.diff, text, after);
    await sink?.write(Buffer.from(after, 'latin1'));
    for (let i = text.indexOf('\n'); i >= 0; i = text.indexOf('\n', i + 1)) line++;
    written += after.length;
    carry = carry.slice(scan.upTo);
  };
  for await (const chunk of file.chunks()) {
    context.signal?.throwIfAborted();
    carry += chunk.toString('latin1');
    await step(false);
    if (carry.length > MOST_CARRY)
      throw new InputError(
        'The dump has a line of more than 128 MB.',
        file.path,
        'Make the dump again with shorter inserts (extended inserts off, or a smaller packet).',
      );
  }
  if (carry) await step(true);
}

function diffLines(diff: UnifiedDiff, before: string, after: string): void {
  let a = 0;
  let b = 0;
  while (a < before.length) {
    const endA = lineEnd(before, a);
    const endB = lineEnd(after, b);
    diff.add(before.slice(a, endA), after.slice(b, endB));
    a = endA;
    b = endB;
  }
}

function lineEnd(text: string, at: number): number {
  const end = text.indexOf('\n', at);
  return end < 0 ? text.length : end + 1;
}

/** Numbers of lines for places that come in order: a text is walked through once, however many places it has. */
class LineCounter {
  private start = 0;
  private next: number;

  constructor(
    private readonly text: string,
    private line: number,
  ) {
    this.next = lineEnd(text, 0);
  }

  /** The line of an offset, and where it begins. */
  of(at: number): { line: number; start: number } {
    while (this.next <= at && this.next < this.text.length) {
      this.start = this.next;
      this.next = lineEnd(this.text, this.next);
      this.line++;
    }
    return { line: this.line, start: this.start };
  }
}

function shownPlace(file: string, p: Rewrite['places'][number], text: string, lines: LineCounter): FoundPlace {
  const { line, start: lineStart } = lines.of(p.at);
  const from = Math.max(lineStart, p.at - EXCERPT);
  return {
    path: file,
    line,
    column: p.at - lineStart + 1,
    form: p.form,
    before: copyOf(p.before),
    after: p.after === undefined ? null : copyOf(p.after),
    refused: p.refused ?? null,
    excerpt: Buffer.from(
      (text.slice(from, p.at + p.before.length + EXCERPT).split('\n')[0] ?? '').trimEnd(),
      'latin1',
    ).toString('utf8'),
  };
}

/** A text of its own: a piece of a long one keeps all of it in memory. */
const copyOf = (text: string) => Buffer.from(text, 'latin1').toString('latin1');

const isUtf16 = (bytes: Buffer) => bytes[0] === 0xff && bytes[1] === 0xfe;

const MAIL = /\.(eml|mbox|txt|md|log|msg)$/i;

function kindOf(file: string, head: Buffer): TextKind | 'sql' | 'binary' {
  if (isUtf16(head) || head.includes(0)) return 'binary';
  const text = head.toString('latin1').replace(/^\u00EF\u00BB\u00BF/, '');
  if (/^%PDF-/.test(text)) return 'binary';
  if (/\.sql$/i.test(file) || looksLikeSql(text)) return 'sql';
  return MAIL.test(file) ? 'text' : 'markup';
}

/** Hosts in every form in which they may be written, and what they become. */
function targetOf(task: MoveTask): MoveTarget {
  const hosts = task.from.flatMap((given) => {
    const name = given
      .trim()
      .toLowerCase()
      .replace(/^https?:\/\//, '')
      .replace(/\/.*$/, '');
    const ascii = domainToASCII(name);
    if (ascii === '' || !/^[a-z0-9.-]+$/.test(ascii))
      throw new InputError(
        `"${given.slice(0, 100)}" is not a host name.`,
        '--from',
        'Write it like fernhollow.example.',
      );
    // A name with letters of its own is written in both ways; files are read as bytes.
    const written = ascii === name ? [] : hostForms(name).map((h) => Buffer.from(h, 'utf8').toString('latin1'));
    return [...hostForms(ascii), ...written];
  });
  if (hosts.length === 0) throw new InputError('No host is given.', '--from', 'Give the hosts whose addresses move.');
  if (task.to === 'https') return { hosts: [...new Set(hosts)] };
  const to = URL.canParse(task.to) ? new URL(task.to) : undefined;
  if (to?.protocol !== 'https:')
    throw new InputError(
      `"${task.to.slice(0, 100)}" is no target.`,
      '--to',
      'Write https, or an origin like https://www.fernhollow.example.',
    );
  return { hosts: [...new Set(hosts)], toHost: to.host };
}

/** Puts a changed file back to what it was, by the lines of its undo map. */
export function undoChanges(
  changed: Uint8Array,
  lines: readonly { at: number; now: string; was: string }[],
): Uint8Array {
  const text = Buffer.from(changed).toString('latin1');
  return Buffer.from(
    withChanges(
      text,
      lines.map((l) => ({ start: l.at, end: l.at + l.now.length, text: l.was })),
    ),
    'latin1',
  );
}
