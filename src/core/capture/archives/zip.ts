import { unzipSync, type UnzipFileInfo } from 'fflate';
import { InputError } from '../errors';

/** Files of one archive, and bytes that it may unpack to in all. */
const MOST_FILES = 5000;
const MOST_BYTES = 512 * 1024 * 1024;
const NEXT = 'Pack fewer files, or unpack it and drop them one by one.';

/** True for a ZIP archive that is no document of an office program (APPNOTE, 4.3.7; ECMA-376). */
export function isZip(bytes: Uint8Array): boolean {
  const head = String.fromCharCode(...bytes.subarray(0, 2048));
  return head.startsWith('PK\x03\x04') && !/\bxl\/|worksheets|\bword\/|\bppt\/|\[Content_Types\]/.test(head);
}

/**
 * The files of an archive by their path. Nothing is written anywhere: a path is only a name.
 * @throws InputError for a broken one, and one that holds or unpacks to too much, before it is unpacked
 */
export function filesOfZip(bytes: Uint8Array, fileName: string): Map<string, Uint8Array> {
  let count = 0;
  let size = 0;
  const wanted = (file: UnzipFileInfo) => {
    if (file.name.endsWith('/') || /(^|\/)(__MACOSX|\.DS_Store)/.test(file.name)) return false;
    if (++count > MOST_FILES) throw new InputError(`The archive holds more than ${MOST_FILES} files.`, fileName, NEXT);
    size += file.originalSize;
    if (size > MOST_BYTES) throw new InputError('The archive unpacks to more than 512 MB.', fileName, NEXT);
    return true;
  };
  try {
    return new Map(Object.entries(unzipSync(bytes, { filter: wanted })));
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError(
      `The ZIP archive cannot be unpacked: ${error instanceof Error ? error.message : String(error)}.`,
      fileName,
      'It may have been cut short, or have a password: make it again.',
    );
  }
}
