// Builds the web application into dist/.
import { spawnSync } from 'node:child_process';
import { root } from './shared.mjs';

const run = spawnSync(process.execPath, ['node_modules/astro/astro.js', 'build'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
});
process.exit(run.status ?? 1);
