/** Made-up captures for measuring: a page of many loads, and a very large file. */

const START = Date.parse('2026-11-12T10:00:00Z');
const PAGE = 'https://www.fernhollow.example/long/';
const MEDIA = 'https://media.fernhollow.example/p/';

interface Made {
  readonly url: string;
  readonly mime: string;
  readonly body?: string;
  readonly base64?: string;
  readonly bytes: number;
  readonly startMs: number;
}

function entry(m: Made): object {
  return {
    pageref: 'page_1',
    startedDateTime: new Date(START + m.startMs).toISOString(),
    time: 40,
    request: {
      method: 'GET',
      url: m.url,
      httpVersion: 'h2',
      headers: [],
      cookies: [],
      queryString: [],
      headersSize: 400,
      bodySize: 0,
    },
    response: {
      status: 200,
      statusText: '',
      httpVersion: 'h2',
      headers: [{ name: 'content-type', value: m.mime }],
      cookies: [],
      content: {
        size: m.bytes,
        mimeType: m.mime,
        ...(m.base64 !== undefined ? { text: m.base64, encoding: 'base64' } : { text: m.body }),
      },
      redirectURL: '',
      headersSize: 200,
      bodySize: m.bytes,
    },
    cache: {},
    timings: { blocked: 1, dns: -1, connect: -1, ssl: -1, send: 0, wait: 25, receive: 14 },
  };
}

function file(entries: readonly object[]): string {
  return JSON.stringify({
    log: {
      version: '1.2',
      creator: { name: 'bench', version: '1' },
      pages: [
        {
          startedDateTime: new Date(START).toISOString(),
          id: 'page_1',
          title: 'A long page',
          pageTimings: { onContentLoad: 600, onLoad: 2400 },
        },
      ],
      entries,
    },
  });
}

/** Pseudo-random base64 of about so many bytes; the same on every machine. */
function noise(bytes: number, seed: number): string {
  const out = Buffer.alloc(bytes);
  let x = seed + 1;
  for (let i = 0; i < bytes; i++) {
    x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
    out[i] = x >>> 24;
  }
  return out.toString('base64');
}

/** A page of `loads` loads: 12 styles, 20 scripts, the rest pictures; about 3 MB. */
export function wideHar(loads: number): string {
  const styles = Array.from({ length: 12 }, (_, i) => `${PAGE}s${i}.css`);
  const scripts = Array.from({ length: 20 }, (_, i) => `${PAGE}j${i}.js`);
  const pictures = Array.from({ length: loads - 33 }, (_, i) => `${MEDIA}${i}.jpg`);
  const html = `<!doctype html>\n<html><head>\n${styles.map((u) => `<link rel="stylesheet" href="${u}">`).join('\n')}\n${scripts.map((u, i) => `<script src="${u}"${i % 2 ? ' defer' : ''}></script>`).join('\n')}\n</head><body>\n<h1>A long page</h1>\n${pictures.map((u, i) => `<p>Paragraph ${i} about the long border.</p>\n<img src="${u}" alt="">`).join('\n')}\n</body></html>`;
  const css = Array.from(
    { length: 400 },
    (_, i) =>
      `.bed-${i} > .plant:nth-child(${i}) { color: #3a${(i % 90) + 10}4d; background: url(${MEDIA}${i % 40}.jpg) }`,
  ).join('\n');
  const js = Array.from(
    { length: 500 },
    (_, i) => `function plant${i}(soil) { return soil.depth * ${i} + 'fern'.length; }`,
  ).join('\n');
  return file([
    entry({ url: PAGE, mime: 'text/html', body: html, bytes: html.length, startMs: 0 }),
    ...styles.map((url, i) => entry({ url, mime: 'text/css', body: css, bytes: css.length, startMs: 80 + i })),
    ...scripts.map((url, i) => entry({ url, mime: 'text/javascript', body: js, bytes: js.length, startMs: 95 + i })),
    ...pictures.map((url, i) =>
      entry({ url, mime: 'image/jpeg', base64: noise(12_000, i), bytes: 12_000, startMs: 120 + i }),
    ),
  ]);
}

/** A HAR of about `bytes` bytes, most of it base64 bodies. */
export function largeHar(bytes: number): string {
  const each = 512 * 1024;
  const count = Math.floor(bytes / (each * 1.3334));
  const urls = Array.from({ length: count }, (_, i) => `${MEDIA}large-${i}.jpg`);
  const html = `<!doctype html><title>Large</title><body>${urls.map((u) => `<img src="${u}">`).join('\n')}`;
  return file([
    entry({ url: PAGE, mime: 'text/html', body: html, bytes: html.length, startMs: 0 }),
    ...urls.map((url, i) => entry({ url, mime: 'image/jpeg', base64: noise(each, i), bytes: each, startMs: 100 + i })),
  ]);
}
