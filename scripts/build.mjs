// Builds the web application into dist/, and compresses what browsers fetch of it.
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { root } from './shared.mjs';

const run = spawnSync(process.execPath, ['node_modules/astro/astro.js', 'build'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
});
if (run.status !== 0) process.exit(run.status ?? 1);

const client = path.join(root, 'dist/client');
for (const name of fs.readdirSync(client, { recursive: true, encoding: 'utf8' })) {
  if (!/\.(js|css|svg|json|html|txt)$/.test(name)) continue;
  const file = path.join(client, name);
  const bytes = fs.readFileSync(file);
  if (bytes.length < 1024) continue;
  const params = { [zlib.constants.BROTLI_PARAM_SIZE_HINT]: bytes.length };
  fs.writeFileSync(`${file}.br`, zlib.brotliCompressSync(bytes, { params }));
  fs.writeFileSync(`${file}.gz`, zlib.gzipSync(bytes, { level: 9 }));
}
