import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import importX from 'eslint-plugin-import-x';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** The house's arrows point down: core <- engine <- pages, islands, cli. */
const NODE_NAMES = [
  'fs',
  'path',
  'crypto',
  'http',
  'https',
  'http2',
  'worker_threads',
  'child_process',
  'os',
  'stream',
  'zlib',
  'url',
  'util',
  'buffer',
];
const CORE_BANS = {
  paths: NODE_NAMES.map((name) => ({ name, message: 'src/core is free of Node.' })),
  patterns: [
    { group: ['node:*'], message: 'src/core is free of Node.' },
    {
      group: ['react', 'react-dom', 'react/*', '@mantine/*', 'd3', 'zustand', 'astro', 'astro:*'],
      message: 'src/core is free of the interface.',
    },
    {
      group: ['kysely', 'better-sqlite3', 'sharp', 'piscina', 'pino', 'playwright-core', 'undici', 'commander'],
      message: 'src/core is free of SQL and the world.',
    },
    {
      group: ['**/engine/**', '**/islands/**', '**/pages/**', '**/cli/**', '**/workers/**'],
      message: 'src/core imports nothing above it.',
    },
  ],
};

export default tseslint.config(
  { ignores: ['dist/', '.astro/', 'node_modules/', '.cache/', '.data/', '**/*.astro'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx,mjs,js}'],
    plugins: { 'import-x': importX, 'react-hooks': reactHooks },
    settings: { 'import-x/resolver-next': [createTypeScriptImportResolver()] },
    rules: {
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/no-this-alias': 'off',
      'no-console': 'off',
    },
  },
  {
    files: ['src/core/**'],
    rules: {
      'no-restricted-imports': ['error', CORE_BANS],
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'Buffer',
        'fetch',
        'localStorage',
        'setTimeout',
        'performance',
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Core is deterministic.' },
        { object: 'Date', property: 'now', message: 'Core has no clock.' },
      ],
    },
  },
  {
    files: ['src/engine/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['**/islands/**', '**/pages/**', '**/cli/**', 'react', '@mantine/*'],
              message: 'The engine knows no interface.',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['src/islands/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['**/engine/**', 'node:*'],
              allowTypeImports: true,
              message: 'Islands take types from the engine, never code.',
            },
          ],
        },
      ],
    },
  },
);
