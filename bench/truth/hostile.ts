import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync } from 'node:zlib';
import { bodiesInMemory } from '../../src/core/capture/capture';
import { readHar } from '../../src/core/capture/har';
import { auditPage } from '../../src/core/plan/audit';
import { readPage } from '../../src/core/source/page';

const PAGE = 'https://www.fernhollow.example/';

/** Sources that are large, deep, broken or full of faults. */
export const SOURCES: readonly { readonly name: string; readonly html: () => string; readonly css?: () => string }[] = [
  {
    name: '10 MB of ordinary markup',
    html: () => page(repeat(10e6, (i) => `<p class="row-${i % 50}">Bed ${i} <a href="/bed/${i}">more</a></p>\n`)),
  },
  {
    name: '50,000 elements with pictures',
    html: () => page(repeat(4e6, (i) => `<div class="c${i % 300}"><img src="/p/${i}.jpg" alt=""></div>\n`)),
  },
  {
    name: '1 MB with an http address in every line',
    html: () => page(repeat(1e6, (i) => `<img src="http://media.fernhollow.example/${i}.jpg">\n`)),
  },
  {
    name: '1 MB in a single line, full of http addresses',
    html: () => page(repeat(1e6, (i) => `<img src="http://media.fernhollow.example/${i}.jpg">`)),
  },
  { name: 'nesting 100,000 deep', html: () => page('<div>'.repeat(100_000)) },
  {
    name: '1 MB of tags that nobody closes',
    html: () => page(repeat(1e6, (i) => `<b><i><table><td><select><a href=x${i}>`)),
  },
  { name: '1 MB of broken bytes', html: () => repeat(1e6, (i) => String.fromCharCode(1 + ((i * 7919) % 255))) },
  {
    name: '5 MB stylesheet of 60,000 rules',
    html: () => page('<p class="a-1">x</p>'.repeat(2000)),
    css: () =>
      repeat(5e6, (i) => `.a-${i % 900} > .b-${i} p { margin: ${i % 9}px; background: url("/p/${i % 40}.jpg"); }\n`),
  },
  { name: '1 MB stylesheet nested without end', html: () => page('<p>x</p>'), css: () => 'a{'.repeat(500_000) },
  {
    name: '1 MB of selectors in one rule',
    html: () => page('<p class="x">x</p>'.repeat(500)),
    css: () => `${repeat(1e6, (i) => `.a${i}:not(.b${i}) ~ p,`)} p { color: red; }`,
  },
  {
    name: '1 MB script element',
    html: () => page(`<script>${repeat(1e6, (i) => `var a${i} = "http://x.example/${i}";\n`)}</script>`),
  },
  {
    name: '1 MB of data: pictures',
    html: () => page(repeat(1e6, (i) => `<img src="data:image/png;base64,${'A'.repeat(i % 400)}">`)),
  },
  {
    name: '1 MB srcset',
    html: () => page(`<img srcset="${repeat(1e6, (i) => `/p/${i}.jpg ${i + 1}w, `)}" src="/p/0.jpg">`),
  },
];

function page(body: string): string {
  return `<!doctype html><html><head><title>x</title><link rel="stylesheet" href="/s.css"></head><body>${body}</body></html>`;
}

function repeat(length: number, piece: (i: number) => string): string {
  const out: string[] = [];
  let sum = 0;
  for (let i = 0; sum < length; i++) {
    const text = piece(i);
    out.push(text);
    sum += text.length;
  }
  return out.join('');
}

function entry(url: string, mime: string, text: string, startMs: number): object {
  const size = Buffer.byteLength(text);
  return {
    startedDateTime: new Date(Date.parse('2026-11-12T10:00:00Z') + startMs).toISOString(),
    time: 30,
    request: {
      method: 'GET',
      url,
      httpVersion: 'h2',
      headers: [],
      cookies: [],
      queryString: [],
      headersSize: 300,
      bodySize: 0,
    },
    response: {
      status: 200,
      statusText: '',
      httpVersion: 'h2',
      headers: [{ name: 'content-type', value: mime }],
      cookies: [],
      content: { size, mimeType: mime, text },
      redirectURL: '',
      headersSize: 200,
      bodySize: size,
    },
    cache: {},
    timings: { send: 0, wait: 25, receive: 5 },
  };
}

/** Processor time to read and examine each source, with its size: the clock also counts what other machines on the same host do. */
export function measureSources(): { name: string; ms: number; mb: number; findings: number }[] {
  return SOURCES.map(({ name, html, css }) => {
    const text = html();
    const style = css?.() ?? 'p{}';
    const bytes = Buffer.from(
      JSON.stringify({
        log: {
          version: '1.2',
          creator: { name: 'bench', version: '1' },
          entries: [entry(PAGE, 'text/html', text, 0), entry(`${PAGE}s.css`, 'text/css', style, 30)],
        },
      }),
    );
    const start = process.cpuUsage();
    const [read] = readHar(bytes, 'hostile.har');
    if (!read) throw new Error('nothing read');
    const audit = auditPage(readPage(read.capture, bodiesInMemory(read.bodies)));
    return {
      name,
      ms: process.cpuUsage(start).user / 1000,
      mb: (text.length + style.length) / 1e6,
      findings: audit.findings.length,
    };
  });
}

/** Processor time of one core to examine a thousand captures (the demo's, over and over), and to read their files before. */
export function measureThousand(): { examineMs: number; readMs: number } {
  const folder = path.join(path.dirname(fileURLToPath(import.meta.url)), '../../demo/captures');
  const files = fs
    .readdirSync(folder)
    .filter((f) => f.endsWith('.har.gz'))
    .map((f) => gunzipSync(fs.readFileSync(path.join(folder, f))));
  let start = process.cpuUsage();
  const read = files.flatMap((f) => readHar(f));
  const readMs = (process.cpuUsage(start).user / 1000 / read.length) * 1000;
  start = process.cpuUsage();
  for (let n = 0; n < 1000; n++) {
    const { capture, bodies } = read[n % read.length] as (typeof read)[number];
    auditPage(readPage(capture, bodiesInMemory(bodies)));
  }
  return { examineMs: process.cpuUsage(start).user / 1000, readMs };
}
