// Builds into dist/: the web application, compressed where browsers fetch it; and what runs in Node as plain JavaScript,
// so that a command or a thread starts without reading TypeScript.
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import * as esbuild from 'esbuild';
import { ONE_FILE, packages } from './bundled.mjs';
import { markBuilt, root, sources } from './shared.mjs';

const from = sources();
markBuilt(undefined);
// Taken away first: what was built of an older state must not be run beside the new.
fs.rmSync(path.join(root, 'dist/node'), { recursive: true, force: true });
await site();
await node();

function site() {
  return new Promise((done) => {
    spawn(process.execPath, ['node_modules/astro/astro.js', 'build'], {
      cwd: root,
      stdio: 'inherit',
      env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
    }).on('exit', (code) => (code === 0 ? done() : process.exit(code ?? 1)));
  });
}

/** What several of these need is shared by them. */
async function node() {
  await esbuild.build({
    absWorkingDir: root,
    entryPoints: {
      main: 'src/cli/main.ts',
      serve: 'src/server/serve.ts',
      jobTask: 'src/engine/workers/jobTask.ts',
      sweepTask: 'src/engine/workers/sweepTask.ts',
      reportTask: 'src/engine/workers/reportTask.ts',
      replayProcess: 'src/engine/replay/replayProcess.ts',
    },
    outdir: 'dist/node',
    bundle: true,
    splitting: true,
    plugins: [packages],
    alias: ONE_FILE,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    charset: 'utf8',
    logLevel: 'warning',
  });
}

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
markBuilt(from);
