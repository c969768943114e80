import node from '@astrojs/node';
import react from '@astrojs/react';
import { defineConfig } from 'astro/config';

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [react()],
  // Our own middleware compares Origin with Host; the built-in check does not know on which address we serve.
  security: { checkOrigin: false },
  devToolbar: { enabled: false },
  server: { host: '127.0.0.1', port: 4270 },
  vite: {
    ssr: {
      external: [
        'better-sqlite3',
        'sharp',
        'piscina',
        'pino',
        'playwright-core',
        'tsx',
        'kysely',
        'css-tree',
        'parse5',
      ],
    },
    worker: { format: 'es' },
    build: { chunkSizeWarningLimit: 1200 },
  },
});
