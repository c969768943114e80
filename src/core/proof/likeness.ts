/** How a request that scripts make is found among recorded ones, although clock and chance have changed its address. */

/** A recorded request: what it asked for. */
export interface Asked {
  readonly method: string;
  readonly url: string;
}

/** What a request was answered with: the index of the recorded one, and whether its address was the same. */
export interface Likeness {
  readonly index: number;
  /** 1 for the same address; less for one that differs in noise. */
  readonly alike: number;
}

/** Below this share of equal parts two addresses are different requests. */
const LEAST_ALIKE = 0.5;

/**
 * The recorded request that a new one is most like. The same address first; then the same path with a query of the same
 * names whose values differ, or most of whose pairs are equal; then a path that differs only in parts that look like
 * numbers, times or hashes. Of several equally alike the first that was not `used` yet, else the last.
 * @returns undefined when none is alike enough: it was never captured
 */
export function findLike(asked: Asked, recorded: readonly Asked[], used: ReadonlySet<number>): Likeness | undefined {
  const same = recorded.flatMap((other, index) =>
    other.url === asked.url && other.method === asked.method ? [index] : [],
  );
  const exact = same.find((index) => !used.has(index)) ?? same.at(-1);
  if (exact !== undefined) return { index: exact, alike: 1 };
  const wanted = partsOf(asked.url);
  if (!wanted) return undefined;
  let best: Likeness | undefined;
  recorded.forEach((other, index) => {
    if (other.method !== asked.method) return;
    const alike = likenessOf(wanted, partsOf(other.url));
    if (alike < LEAST_ALIKE) return;
    const better =
      !best ||
      alike > best.alike ||
      (alike === best.alike && used.has(best.index) && !(used.has(index) && index < best.index));
    if (better) best = { index, alike };
  });
  return best;
}

interface Parts {
  readonly origin: string;
  readonly path: readonly string[];
  readonly query: readonly (readonly [string, string])[];
}

function partsOf(url: string): Parts | undefined {
  if (!URL.canParse(url)) return undefined;
  const { origin, pathname, searchParams } = new URL(url);
  return { origin, path: pathname.split('/'), query: [...searchParams] };
}

function likenessOf(a: Parts, b: Parts | undefined): number {
  if (!b || a.origin !== b.origin || a.path.length !== b.path.length) return 0;
  let noise = 0;
  for (const [i, part] of a.path.entries()) {
    if (part === b.path[i]) continue;
    if (!isNoise(part) || !isNoise(b.path[i] ?? '')) return 0;
    noise++;
  }
  // Just under one: the same address always goes first.
  const ofPath = 0.99 - (0.4 * noise) / a.path.length;
  return ofPath * queryLikeness(a.query, b.query);
}

/** Share of equal pairs; the same names in the same order are always alike enough. */
function queryLikeness(a: Parts['query'], b: Parts['query']): number {
  if (a.length === 0 && b.length === 0) return 1;
  const left = new Map(b.map(([k, v]) => [`${k}=${v}`, 1]));
  const equal = a.filter(([k, v]) => left.delete(`${k}=${v}`)).length;
  const share = equal / Math.max(a.length, b.length);
  const names = (q: Parts['query']) => q.map(([k, v]) => (isNoise(k) && v === '' ? '#' : k)).join('&');
  return names(a) === names(b) ? 0.6 + 0.4 * share : share;
}

/** Numbers of some length, times, hashes and identifiers: what scripts make up. */
const isNoise = (text: string) =>
  /^\d{5,}(\.\w+)?$/.test(text) || /^0?\.\d{4,}$/.test(text) || /^(?=.*\d)[0-9a-f-]{8,}(\.\w+)?$/i.test(text);
