/** Numbers by chance from a seed: the same seed gives the same inputs. */
export type Chance = (below: number) => number;

/** A small generator with a period that is long enough (a 32-bit mix of a counter). */
export function chanceFrom(seed: number): Chance {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x9e3779b9) >>> 0;
    let z = state;
    z = Math.imul(z ^ (z >>> 16), 0x85ebca6b);
    z = Math.imul(z ^ (z >>> 13), 0xc2b2ae35);
    return ((z ^ (z >>> 16)) >>> 0) % below;
  };
}

const pick = <T>(list: readonly T[], chance: Chance): T => list[chance(list.length)] as T;

/** Values that programs stumble over. */
const STRANGE: readonly unknown[] = [
  null,
  true,
  -1,
  0,
  -0,
  1e308,
  -1e15,
  2 ** 53,
  0.1,
  '',
  ' ',
  '\u0000',
  '\ud800',
  'NaN',
  '__proto__',
  'constructor',
  'https://',
  'http://[::',
  'javascript:alert(1)',
  'data:,',
  '//',
  'x'.repeat(20_000),
  '2026-13-45T99:99:99Z',
  '+275760-09-13T00:00:00.000Z',
  [],
  {},
  [[[[]]]],
  { __proto__: null, toString: 1 },
];

/** Changes a JSON document somewhere: a value, a name, a part taken from elsewhere, a part twice or not at all. */
export function mutateJson(text: string, chance: Chance): string {
  const root = JSON.parse(text) as unknown;
  const places: { holder: Record<string, unknown>; key: string }[] = [];
  const walk = (value: unknown) => {
    if (value === null || typeof value !== 'object') return;
    for (const key of Object.keys(value)) {
      places.push({ holder: value as Record<string, unknown>, key });
      walk((value as Record<string, unknown>)[key]);
    }
  };
  walk(root);
  for (let times = 1 + chance(4); times > 0 && places.length > 0; times--) {
    const { holder, key } = pick(places, chance);
    const other = pick(places, chance);
    switch (chance(7)) {
      case 0:
        delete holder[key];
        break;
      case 1:
        holder[pick(['__proto__', 'constructor', '', 'x'.repeat(300), '0'], chance)] = holder[key];
        break;
      case 2:
        // An earlier change may have given the list another prototype.
        if (Array.isArray(holder)) Array.prototype.push.call(holder, structuredClone(holder[Number(key)]));
        break;
      case 3:
        holder[key] = structuredClone(other.holder[other.key]);
        break;
      case 4:
        if (typeof holder[key] === 'string') holder[key] = mutateText(holder[key], [], chance);
        else if (typeof holder[key] === 'number') holder[key] = holder[key] * pick([-1, 0, 1e6, 1e-6, 1e300], chance);
        break;
      default:
        holder[key] = structuredClone(pick(STRANGE, chance));
    }
  }
  const out = JSON.stringify(root);
  // Sometimes no JSON any more.
  return chance(12) === 0 ? mutateText(out, ['{', '}', '[', ']', ',', ':', '"', '\\'], chance) : out;
}

/**
 * Changes a text piece by piece: pieces are words, tags, marks. They are left out, doubled, moved, replaced by others
 * and by words of the format's own, or repeated very often.
 */
export function mutateText(text: string, words: readonly string[], chance: Chance): string {
  const pieces = text.match(/<[^<>]{0,80}>?|[\w-]+|\s+|[^\w\s<]/g) ?? [''];
  for (let times = 1 + chance(6); times > 0; times--) {
    const at = chance(pieces.length);
    switch (chance(8)) {
      case 0:
        pieces.splice(at, 1 + chance(4));
        break;
      case 1:
        pieces.splice(at, 0, ...pieces.slice(at, at + 1 + chance(8)));
        break;
      case 2:
        pieces.splice(at, 0, pick(pieces.length > 0 ? pieces : [''], chance));
        break;
      case 3:
        if (chance(6) === 0)
          pieces.splice(at, 0, (pick(words.length > 0 ? words : ['('], chance) ?? '').repeat(200 + chance(2000)));
        break;
      case 4:
        pieces.splice(
          at,
          0,
          String.fromCodePoint(pick([0, 1, 9, 0x7f, 0xa0, 0xfeff, 0x202e, 0x1f33f, 0xd7ff], chance)),
        );
        break;
      case 5:
        pieces.splice(chance(pieces.length + 1));
        break;
      default:
        if (words.length > 0) pieces.splice(at, chance(2), pick(words, chance));
    }
    if (pieces.length === 0) pieces.push('');
  }
  return pieces.join('');
}
