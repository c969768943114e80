import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium, type Browser } from 'playwright-core';
import { findChromium } from '../../src/engine/record/chromium';
import { seedDemo } from '../../src/engine/services/seedDemo';
import { openStore } from '../../src/engine/store/store';
import { startBuiltServer } from '../builtServer';
import { freePort } from '../crawl';

/** The built application with the demo in it, and a browser. */
export interface DemoServer {
  readonly base: string;
  readonly port: number;
  readonly browser: Browser;
}

/** Runs something against the built application with the demo; ends both afterwards. */
export async function withDemo<T>(run: (server: DemoServer) => Promise<T>): Promise<T> {
  const data = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-self-'));
  const store = await openStore(data);
  await seedDemo(store);
  await store.destroy();
  const port = await freePort();
  const server = await startBuiltServer(data, port);
  const base = `http://127.0.0.1:${port}`;
  // As `npm start` does: what is opened first does not wait for the server's own start.
  await fetch(`${base}/sites/1`);
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: process.getuid?.() === 0 ? ['--no-sandbox'] : [],
  });
  try {
    return await run({ base, port, browser });
  } finally {
    await browser.close();
    server.kill();
    fs.rmSync(data, { recursive: true, force: true });
  }
}
