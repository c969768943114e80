/** Characters by which a value is looked up: shorter ones are not kept. */
export const LEAST_KNOWN = 6;

const FILTER_SIZE = 1 << 16;

/**
 * Many values that are looked for in texts together. Learning one costs the same however many there are, and so does
 * looking at a character of a text: a page may bring a new token with each of its links.
 */
export class KnownValues {
  private readonly values = new Set<string>();
  /** How long values are, by how they begin; the longest first, so that none is found inside of another. */
  private readonly lengths = new Map<string, number[]>();
  /** Tells most places of a text at once that nothing begins there. */
  private readonly filter = new Uint8Array(FILTER_SIZE);

  get size(): number {
    return this.values.size;
  }

  /** Keeps a value of at least `LEAST_KNOWN` characters. */
  add(value: string): void {
    if (this.values.has(value)) return;
    this.values.add(value);
    const start = value.slice(0, LEAST_KNOWN);
    const lengths = this.lengths.get(start) ?? [];
    if (!lengths.includes(value.length))
      this.lengths.set(
        start,
        [...lengths, value.length].sort((a, b) => b - a),
      );
    this.filter[hashAt(value, 0)] = 1;
  }

  /** A text with every value replaced, and how many there were. */
  replaceIn(text: string, by: string): { text: string; times: number } {
    let out = '';
    let from = 0;
    let times = 0;
    for (let i = 0; i + LEAST_KNOWN <= text.length; i++) {
      if (this.filter[hashAt(text, i)] === 0) continue;
      const lengths = this.lengths.get(text.slice(i, i + LEAST_KNOWN));
      const length = lengths?.find((n) => this.values.has(text.slice(i, i + n)));
      if (length === undefined) continue;
      out += text.slice(from, i) + by;
      times++;
      from = i + length;
      i = from - 1;
    }
    return { text: times === 0 ? text : out + text.slice(from), times };
  }
}

/** A number of the four characters from a place on. */
function hashAt(text: string, at: number): number {
  let hash = text.charCodeAt(at);
  for (let i = 1; i < 4; i++) hash = Math.imul(hash, 31) + text.charCodeAt(at + i);
  return hash & (FILTER_SIZE - 1);
}
