import { howItLeads, isGood, type Entrance } from '../../core/site/entrances';

/** A point at which a path bends: a request on the way. */
export interface PathPoint {
  readonly x: number;
  readonly y: number;
  readonly url: string;
  /** What came back there. */
  readonly label: string;
}

/** One way in, drawn. */
export interface EntrancePath {
  readonly entrance: Entrance;
  readonly good: boolean;
  readonly y: number;
  readonly points: readonly PathPoint[];
  /** SVG path data. */
  readonly d: string;
  /** Where it ends, or why it has no end. */
  readonly end: { readonly x: number; readonly y: number; readonly label: string; readonly dead: boolean };
}

export interface EntranceLayout {
  readonly paths: readonly EntrancePath[];
  /** Ends, each once: the secure address that most ways lead to comes first. */
  readonly ends: readonly { readonly url: string; readonly y: number; readonly ways: number; readonly good: boolean }[];
  readonly height: number;
  readonly labelWidth: number;
  readonly endX: number;
}

const ROW = 24;
const LABEL = 250;
const END_LABEL = 210;

/**
 * Draws ways in as paths: each begins in its own row, goes to the row of each address that it is sent to, and ends at
 * the right in the row of its last address. Ways that end at one address meet there; a pure function.
 */
export function entrancePathsLayout(entrances: readonly Entrance[], width: number): EntranceLayout {
  const endX = Math.max(LABEL + 160, width - END_LABEL);
  const rows = new Map<string, number>();
  const y = new Map<Entrance, number>();
  entrances.forEach((e, i) => {
    const at = 12 + i * ROW;
    y.set(e, at);
    if (!rows.has(e.from)) rows.set(e.from, at);
  });
  const longest = Math.max(1, ...entrances.map((e) => Math.min(4, e.hops.length)));
  const step = (endX - LABEL - 20) / (longest + 1);
  const ends = new Map<string, { y: number; ways: number; good: boolean }>();
  const paths = entrances.map((entrance): EntrancePath => {
    const own = y.get(entrance) ?? 0;
    const hops = entrance.hops.slice(0, 4);
    const points = hops.map((h, i): PathPoint => ({
      x: LABEL + 8 + i * step,
      y: i === 0 ? own : (rows.get(h.url) ?? own),
      url: h.url,
      label: h.status === 0 ? 'no answer' : `${howItLeads(h)}, ${h.ms} ms`,
    }));
    const good = isGood(entrance.verdict);
    const last = points.at(-1) ?? { x: LABEL + 8, y: own };
    const dead = entrance.end === null || entrance.end.status >= 400;
    const endY = dead ? last.y : (rows.get(entrance.end?.url ?? '') ?? last.y);
    const end = {
      x: !dead ? endX : hops.at(-1)?.status === 0 ? last.x + 10 : last.x + step * 0.7,
      y: endY,
      label: entrance.end === null ? (entrance.fault ?? 'no answer') : String(entrance.end.status),
      dead,
    };
    if (!dead && entrance.end) {
      const known = ends.get(entrance.end.url);
      ends.set(entrance.end.url, {
        y: endY,
        ways: (known?.ways ?? 0) + 1,
        good: (known?.good ?? true) && entrance.end.url.startsWith('https:'),
      });
    }
    let d = `M${LABEL} ${own}`;
    let at = { x: LABEL, y: own };
    for (const p of [...points, end]) {
      const middle = (at.x + p.x) / 2;
      d +=
        p.y === at.y
          ? `H${round(p.x)}`
          : `C${round(middle)} ${round(at.y)} ${round(middle)} ${round(p.y)} ${round(p.x)} ${round(p.y)}`;
      at = p;
    }
    return { entrance, good, y: own, points, d, end };
  });
  return {
    paths,
    ends: [...ends].map(([url, e]) => ({ url, ...e })).sort((a, b) => b.ways - a.ways),
    height: entrances.length * ROW + 6,
    labelWidth: LABEL,
    endX,
  };
}

const round = (n: number) => Math.round(n * 10) / 10;
