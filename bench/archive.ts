/**
 * `npm run bench:archive`: a web archive of 2 GB, made here, is read and examined by a process of its own: how long that
 * takes and how much memory. Writes docs/robustness.md.
 */
import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { keepResult } from './robustness';

const SELF = fileURLToPath(import.meta.url);
const ORIGIN = 'https://www.fernhollow.example';
const MB = 1024 * 1024;
const PAGES = 400;
const PICTURE_BYTES = 128 * 1024;

const [, , file] = process.argv;
if (file) {
  const { auditFile } = await import('../src/engine/services/importHar');
  const started = Date.now();
  const audits = await auditFile(file, path.basename(file));
  console.log(
    JSON.stringify({
      pages: audits.length,
      seconds: Math.round((Date.now() - started) / 1000),
      memoryMb: Math.round(process.resourceUsage().maxRSS / 1024),
    }),
  );
  process.exit(0);
}

const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-archive-'));
try {
  const rows = [200, 1000, 2000].map((mb) => {
    const archive = path.join(folder, 'site.warc');
    const { answers, bytes } = write(archive, mb * MB);
    const done = spawnSync(process.execPath, ['--import', 'tsx', SELF, archive], { encoding: 'utf8' });
    if (done.status !== 0) throw new Error(done.stderr);
    const { pages, seconds, memoryMb } = JSON.parse(done.stdout) as Record<string, number>;
    return [Math.round(bytes / MB), answers, pages ?? 0, seconds ?? 0, memoryMb ?? 0];
  });
  console.table(rows);
  keepResult('archive', rows);
} finally {
  fs.rmSync(folder, { recursive: true, force: true });
}

/** An archive of a site: pages with pictures of their own, and pictures that no page among the first names. */
function write(to: string, size: number): { answers: number; bytes: number } {
  const out = fs.openSync(to, 'w');
  let [answers, bytes] = [0, 0];
  const put = (at: string, type: string, body: string | Buffer) => {
    const block = Buffer.concat([Buffer.from(`HTTP/1.1 200 OK\r\nContent-Type: ${type}\r\n\r\n`), Buffer.from(body)]);
    const head = `WARC/1.1\r\nWARC-Type: response\r\nWARC-Target-URI: ${ORIGIN}${at}\r\nContent-Type: application/http;msgtype=response\r\nContent-Length: ${block.length}\r\n\r\n`;
    for (const part of [Buffer.from(head), block, Buffer.from('\r\n\r\n')]) bytes += fs.writeSync(out, part);
    answers++;
  };
  put('/s.css', 'text/css', 'h1{color:#123}img{width:100%}');
  for (let i = 0; i < PAGES; i++) {
    const pictures = Array.from({ length: 6 }, (_, n) => `<img src="/p/${i * 6 + n}.jpg" alt="">`).join('');
    put(
      `/bed-${i}/`,
      'text/html',
      `<!doctype html><link rel=stylesheet href=/s.css><h1>Bed ${i}</h1>${pictures}${'<p>Ferns like shade.</p>'.repeat(800)}`,
    );
  }
  for (let n = 0; bytes < size; n++) put(`/p/${n}.jpg`, 'image/jpeg', randomBytes(PICTURE_BYTES));
  fs.closeSync(out);
  return { answers, bytes };
}
