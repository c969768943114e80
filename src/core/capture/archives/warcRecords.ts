import { latin1 } from '../base64';
import { header, type Header } from '../capture';
import { InputError } from '../errors';
import { bodyStart, readHeaderLines } from './resource';

/** One record of a web archive (ISO 28500, 4). */
export interface WarcRecord {
  readonly headers: readonly Header[];
  /** Undefined for one that is larger than is read. */
  readonly block: Uint8Array | undefined;
}

/** Longest head of a record, in bytes. */
const LONGEST_HEAD = 1024 * 1024;
const NOTHING = new Uint8Array();

/** True for bytes that begin with a WARC record. */
export function isWarc(bytes: Uint8Array): boolean {
  return /^WARC\/\d\.\d+\r?\n/.test(latin1(bytes.subarray(0, 16)));
}

/**
 * Splits a web archive into its records as its bytes arrive, in parts of any size: no more than one record is held.
 */
export class WarcRecords {
  private rest: Uint8Array = NOTHING;
  private count = 0;
  /** Bytes of the archive before `rest`. */
  private passed = 0;
  private open:
    { headers: readonly Header[]; length: number; had: number; parts: Uint8Array[]; at: string } | undefined;

  /** @param largestBlock a larger block is passed over: its record has none */
  constructor(
    private readonly fileName: string,
    private readonly largestBlock = Infinity,
  ) {}

  /**
   * Takes the next bytes; gives the records that they complete.
   * @throws InputError for bytes that are no record
   */
  *push(bytes: Uint8Array): Generator<WarcRecord> {
    this.rest = this.rest.length === 0 ? bytes : joined([this.rest, bytes]);
    for (;;) {
      if (!this.open && !this.beginRecord()) return;
      const record = this.goOn();
      if (!record) return;
      yield record;
    }
  }

  /** @throws InputError where the archive ends within a record */
  end(): void {
    if (this.open) throw this.fault('The archive ends within a record.', 'It was cut short: copy it again.');
    if (this.rest.length === 0) return;
    this.count++;
    throw isWarc(this.rest)
      ? this.fault('The archive ends within the head of a record.', 'Copy it again.')
      : this.noRecord();
  }

  /** Reads the head of the next record; false while that is not whole. */
  private beginRecord(): boolean {
    // Records end with two line ends, of which broken tools write more or fewer.
    let at = 0;
    while (this.rest[at] === 0x0d || this.rest[at] === 0x0a) at++;
    this.pass(at);
    // What a record begins with is told from 16 bytes.
    if (this.rest.length < 16) return false;
    this.count++;
    if (!isWarc(this.rest)) throw this.noRecord();
    const start = bodyStart(this.rest, 0);
    if (start < 0 || start > LONGEST_HEAD) {
      if (this.rest.length > LONGEST_HEAD)
        throw this.fault('The head of a record is longer than 1 MB.', 'The program that made the archive is at fault.');
      this.count--;
      return false;
    }
    const headers = readHeaderLines(latin1(this.rest.subarray(0, start)).replace(/^[^\n]*\n/, ''));
    const length = Number(header(headers, 'content-length'));
    if (!Number.isInteger(length) || length < 0)
      throw this.fault('A record states no length.', 'The program that made the archive is at fault.');
    const at0 = this.where();
    this.pass(start);
    this.open = { headers, length, had: 0, parts: [], at: at0 };
    return true;
  }

  /** Goes on with the block of the open record; the record once that is whole. */
  private goOn(): WarcRecord | undefined {
    const { open } = this;
    if (!open) return undefined;
    const part = this.rest.subarray(0, open.length - open.had);
    open.had += part.length;
    if (open.length <= this.largestBlock && part.length > 0) open.parts.push(part);
    this.pass(part.length);
    if (open.had < open.length) return undefined;
    this.open = undefined;
    return { headers: open.headers, block: open.length <= this.largestBlock ? joined(open.parts) : undefined };
  }

  private pass(count: number): void {
    this.rest = this.rest.subarray(count);
    this.passed += count;
  }

  private where(): string {
    return `${this.fileName}, record ${this.count}, byte ${this.passed}`;
  }

  private fault(what: string, next: string): InputError {
    return new InputError(what, this.open?.at ?? this.where(), next);
  }

  private noRecord(): InputError {
    return this.fault(
      'The archive is broken: no record begins here.',
      'It may have been cut or changed: make it again.',
    );
  }
}

/** Parts as one; a single part as it is. */
export function joined(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return parts[0] as Uint8Array;
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}
