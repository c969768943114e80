import zlib from 'node:zlib';

/** What a page of the maze sends: whole, or written by itself. */
export interface MazeAnswer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: Buffer;
  /** Goes on writing until the other side hangs up. */
  readonly endless?: boolean;
  /** Breaks the connection off instead of answering. */
  readonly broken?: boolean;
}

const HTML = { 'content-type': 'text/html; charset=utf-8' };

const doc = (title: string, links: readonly string[]): Buffer =>
  Buffer.from(
    `<!doctype html>\n<html lang="en">\n<head>\n  <meta charset="utf-8">\n  <title>${title}</title>\n</head>\n<body class="maze">\n  <h1>${title}</h1>\n${links.map((l) => `  <p><a href="${l}">${l.slice(0, 60)}</a></p>`).join('\n')}\n</body>\n</html>\n`,
  );

const DOORS = [
  'calendar/?month=2026-11',
  'session/?sid=a1b2c3d4e5f60718293a4b5c6d7e8f90',
  'deeper/',
  'circle-a/',
  'endless/',
  'bomb/',
  'charset/',
  'unknown-charset/',
  'busy/',
  'filter/?shade=0&tint=0',
  'broken/',
];

/** Addresses without end, answers without end and other traps, for tests of the crawl. All under `/maze/`. */
export class Maze {
  private asked = 0;
  private bomb: Buffer | undefined;

  answer(url: string): MazeAnswer | undefined {
    const at = new URL(url, 'https://maze.example');
    if (!at.pathname.startsWith('/maze/')) return undefined;
    const room = at.pathname.slice('/maze/'.length);
    const ok = (body: Buffer, headers: Record<string, string> = HTML): MazeAnswer => ({ status: 200, headers, body });
    if (room === '') return ok(doc('The maze', [...DOORS, `long/?${'x'.repeat(2100)}`]));
    if (room === 'calendar/') return ok(this.month(at.searchParams.get('month') ?? '2026-11'));
    if (room === 'session/') return ok(doc('Session', this.sessionLinks()));
    if (/^session\/room-\d\/$/.test(room)) return ok(doc('Room', this.sessionLinks()));
    if (/^(deeper\/)+$/.test(room)) return ok(doc('Deeper', ['deeper/']));
    if (room === 'circle-a/' || room === 'circle-b/')
      return {
        status: 302,
        headers: { location: room === 'circle-a/' ? '/maze/circle-b/' : '/maze/circle-a/' },
        body: Buffer.alloc(0),
      };
    if (room === 'endless/') return { ...ok(doc('Endless', [])), endless: true };
    if (room === 'bomb/') {
      this.bomb ??= zlib.gzipSync(Buffer.alloc(100 * 1024 * 1024, 0x61));
      return ok(this.bomb, { ...HTML, 'content-encoding': 'gzip' });
    }
    if (room === 'charset/') return ok(Buffer.from('<!doctype html><title>Caf\xe9</title><p>Caf\xe9</p>', 'latin1'));
    if (room === 'unknown-charset/') return ok(doc('Unknown', []), { 'content-type': 'text/html; charset=utf-99' });
    if (room === 'busy/') {
      this.asked++;
      return this.asked === 1
        ? { status: 429, headers: { ...HTML, 'retry-after': '1' }, body: doc('Busy', []) }
        : ok(doc('Busy no more', ['/']));
    }
    if (room === 'filter/') {
      const shade = Number(at.searchParams.get('shade')) || 0;
      const tint = Number(at.searchParams.get('tint')) || 0;
      const links = Array.from({ length: 30 }, (_, i) => `?shade=${shade + 1}&tint=${tint * 30 + i}`);
      return ok(doc('Filter', links));
    }
    if (room === 'broken/') return { ...ok(Buffer.alloc(0)), broken: true };
    return undefined;
  }

  private month(month: string): Buffer {
    const [year = 2026, at = 1] = month.split('-').map(Number);
    const step = (by: number) => {
      const all = year * 12 + at - 1 + by;
      return `?month=${Math.floor(all / 12)}-${String((all % 12) + 1).padStart(2, '0')}`;
    };
    return doc(`Events of ${month}`, [step(-1), step(1)]);
  }

  private sessionLinks(): string[] {
    this.sessions += 1;
    const sid = this.sessions.toString(16).padStart(32, 'a');
    return [1, 2, 3].map((n) => `/maze/session/room-${n}/?sid=${sid}`);
  }

  private sessions = 0;
}
