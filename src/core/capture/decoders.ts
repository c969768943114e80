/**
 * Undoes a content coding (RFC 9110, 8.4) that needs more than this core has.
 * @param most bytes that may come out
 * @throws for broken input, and for more than that
 */
export type Decoder = (bytes: Uint8Array, most: number) => Uint8Array;

/** Brotli (RFC 7932) and Zstandard (RFC 8878), where whoever reads a file has them. */
export type Decoders = Readonly<Partial<Record<'br' | 'zstd', Decoder>>>;
