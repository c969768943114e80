import { InputError } from './errors';
import { strangeKind } from './fileKind';
import { readHar, type ReadCapture } from './har';

/** Reads one kind of file that holds recorded page loads. */
export interface CaptureReader {
  /** What the kind is called, for messages. */
  readonly name: string;
  /** True for a file that looks like it by its contents; its name does not count. */
  recognises(bytes: Uint8Array): boolean;
  /** @throws InputError saying what is wrong, and where */
  read(bytes: Uint8Array, fileName: string): ReadCapture[];
}

const HAR: CaptureReader = { name: 'HAR', recognises: (bytes) => strangeKind(bytes) === undefined, read: readHar };

/** Every kind of capture file that is read: a new one is a file of its own and a line here. */
const READERS: readonly CaptureReader[] = [HAR];

/**
 * Reads the page loads of a file, whichever kind it is by its contents.
 * @throws InputError for a file of no kind that is read, and for a broken one
 */
export function readCaptures(bytes: Uint8Array, fileName = 'file'): ReadCapture[] {
  if (bytes.length === 0)
    throw new InputError('The file is empty (0 bytes).', fileName, 'Export the HAR again and check its size.');
  const reader = READERS.find((r) => r.recognises(bytes));
  if (reader) return reader.read(bytes, fileName);
  throw new InputError(
    `This is ${strangeKind(bytes) ?? 'no capture'}, not a ${READERS.map((r) => r.name).join(' or a ')}.`,
    fileName,
    'Export the load as HAR from the network panel of a browser, or record the page here.',
  );
}
