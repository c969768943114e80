import node from '@astrojs/node';
import reactIslands from '@astrojs/react';
import type { AstroIntegration } from 'astro';
import { defineConfig } from 'astro/config';
import { BUNDLED, ONE_FILE } from './scripts/bundled.mjs';

const react = reactIslands();
/** React as Astro brings it, but for how islands wake. */
const islands: AstroIntegration = {
  ...react,
  hooks: {
    ...react.hooks,
    'astro:config:setup': (setup) =>
      react.hooks['astro:config:setup']?.({
        ...setup,
        addRenderer: (renderer) => setup.addRenderer({ ...renderer, clientEntrypoint: '/src/islands/frame/wake.ts' }),
      }),
  },
};

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [islands],
  // Our own middleware compares Origin with Host; the built-in check does not know on which address we serve.
  security: { checkOrigin: false },
  devToolbar: { enabled: false },
  // A page that was fetched ahead would show figures from before the last change.
  prefetch: false,

  server: { host: '127.0.0.1', port: 4270 },
  vite: {
    resolve: { alias: ONE_FILE },
    ssr: {
      external: ['better-sqlite3', 'sharp', 'piscina', 'pino', 'playwright-core', 'tsx'],
      noExternal: BUNDLED,
    },
    // The workers need of each kind of fix its edit of the graph only: what reads HTML and CSS is left out.
    worker: { format: 'es', rollupOptions: { treeshake: { moduleSideEffects: false } } },
    // Nothing is put into the page itself: the policy allows scripts in files only.
    build: { chunkSizeWarningLimit: 1200, assetsInlineLimit: 0 },
  },
});
