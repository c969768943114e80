import { InputError } from '../../core/capture/errors';

/** How a value with bytes in it stands in JSON: the bytes follow it. */
interface Packed {
  readonly value: unknown;
  /** Lengths of the parts, in bytes. */
  readonly lengths: readonly number[];
}

const PART = '$part';

/**
 * A plain value with byte arrays in it as bytes: the length of a JSON text in four bytes (big-endian), the text, then each
 * byte array once.
 */
export function packParts(value: unknown): Buffer {
  const parts: Uint8Array[] = [];
  const known = new Map<Uint8Array, number>();
  const plain = (v: unknown): unknown => {
    if (v instanceof Uint8Array) {
      const nth = known.get(v) ?? parts.push(v) - 1;
      known.set(v, nth);
      return { [PART]: nth };
    }
    if (Array.isArray(v)) return v.map(plain);
    if (v === null || typeof v !== 'object') return v;
    return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, plain(x)]));
  };
  const packed: Packed = { value: plain(value), lengths: parts.map((p) => p.length) };
  const text = Buffer.from(JSON.stringify(packed));
  const length = Buffer.alloc(4);
  length.writeUInt32BE(text.length);
  return Buffer.concat([length, text, ...parts]);
}

/**
 * The value again; byte arrays are views of `bytes`.
 * @param where named in an error
 * @throws InputError for what packParts did not make
 */
export function unpackParts(bytes: Buffer, where: string): unknown {
  const broken = (why: string) =>
    new InputError(
      `What the other side sent is damaged: ${why}.`,
      where,
      'Update both to one version, then try again.',
    );
  if (bytes.length < 4) throw broken('it is too short');
  const end = 4 + bytes.readUInt32BE(0);
  if (end > bytes.length) throw broken('it ends early');
  let packed: Partial<Packed>;
  try {
    packed = JSON.parse(bytes.toString('utf8', 4, end)) as Packed;
  } catch {
    throw broken('it is no JSON');
  }
  const lengths = packed?.lengths;
  if (!Array.isArray(lengths) || !lengths.every((n) => Number.isSafeInteger(n) && n >= 0))
    throw broken('it names no parts');
  const parts: Buffer[] = [];
  let at = end;
  for (const n of lengths as number[]) {
    if (at + n > bytes.length) throw broken('a part ends early');
    parts.push(bytes.subarray(at, at + n));
    at += n;
  }
  const whole = (v: unknown): unknown => {
    if (Array.isArray(v)) return v.map(whole);
    if (v === null || typeof v !== 'object') return v;
    const nth = (v as Record<string, unknown>)[PART];
    if (nth !== undefined) {
      const part = parts[nth as number];
      if (!part) throw broken('a part is missing');
      return part;
    }
    return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, whole(x)]));
  };
  return whole(packed.value);
}
